import { describe, expect, it } from "vitest";
import { planWords } from "./FleetPlan";
import { isPlanned } from "./scenarios.queries";
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
    const swap = { do: "swap", model_id: 1, position: "memory_b", part_number: "LM-16320", on: "2027-01-18" } as const;
    expect(changeWords({ ...swap, site: "BRA", quantity: 10 }, name)).toBe(
      "put LM-16320 into memory_b of 10 Packet 14 at BRA on 18 Jan 2027",
    );
    expect(changeWords({ ...swap, site: null, quantity: null }, name)).toContain("of all Packet 14 on");
  });
});

describe("something planned in words", () => {
  const plan = {
    id: 1,
    model: "Packet 14 b",
    site: "Eldhaven",
    duty: "office_hours",
    planned_on: "2027-02-01",
    quantity: 1,
    position: "Memory, lower",
    part_number: "LM-16320",
    note: "",
    recorded_at: "2026-09-14T09:00:00Z",
    author: null,
  };
  it("says what is done to how many machines, and where", () => {
    expect(planWords({ ...plan, action: "purchase", quantity: 60 })).toBe(
      "buy 60 Packet 14 b for Eldhaven, office hours",
    );
    expect(planWords({ ...plan, action: "retire", quantity: 20 })).toBe(
      "retire 20 Packet 14 b at Eldhaven, office hours",
    );
    expect(planWords({ ...plan, action: "swap" })).toBe(
      "put LM-16320 into Memory, lower of 1 Packet 14 b at Eldhaven, office hours",
    );
  });
});

describe("which changes can be planned", () => {
  it("are those with a day that are done to machines", () => {
    expect(isPlanned({ do: "retire", model_id: 1, on: "2027-01-01", site: null, quantity: null })).toBe(true);
    expect(isPlanned({ do: "move", model_id: 1, duty: "office_hours", site: null })).toBe(false);
    expect(isPlanned({ do: "season", factor: 2, on: "2027-06-01", until: "2027-07-01", kinds: ["fan"] })).toBe(false);
  });
});

describe("the changes of an address", () => {
  it("are none where the address holds something else", () => {
    expect(changesOf(null)).toEqual([]);
    expect(changesOf("{broken")).toEqual([]);
    expect(changesOf('[{"do":"move","model_id":1,"duty":"office_hours"},7]')).toHaveLength(1);
  });
});
