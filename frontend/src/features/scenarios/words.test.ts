import { describe, expect, it } from "vitest";
import { changesOf, changeWords } from "./words";

const name = () => "Packet 14";

describe("a change in words", () => {
  it("names what, where and when", () => {
    expect(changeWords({ do: "retire", model_id: 1, on: "2027-01-15", site: "ELD", quantity: null }, name)).toBe(
      "retire all Packet 14 at ELD on 15 Jan 2027",
    );
    expect(
      changeWords({ do: "buy", model_id: 1, on: "2027-02-01", site: "GUL", duty: "two_shifts", quantity: 200 }, name),
    ).toBe("buy 200 Packet 14 for GUL on 1 Feb 2027");
    expect(changeWords({ do: "move", model_id: 1, duty: "round_the_clock", site: null }, name)).toBe(
      "run all Packet 14 round the clock",
    );
    expect(
      changeWords(
        { do: "season", factor: 1.5, on: "2027-06-01", until: "2027-09-01", kinds: ["battery", "fan"] },
        name,
      ),
    ).toBe("battery, fan age 1.50 times as fast from 1 Jun 2027 until 1 Sep 2027");
  });
});

describe("the changes of an address", () => {
  it("are none where the address holds something else", () => {
    expect(changesOf(null)).toEqual([]);
    expect(changesOf("{broken")).toEqual([]);
    expect(changesOf('[{"do":"move","model_id":1,"duty":"office_hours"},7]')).toHaveLength(1);
  });
});
