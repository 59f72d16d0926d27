import { describe, expect, it } from "vitest";
import { sentence } from "./sentence";
import type { Cell, Tally } from "./stores.queries";

const cell: Cell = {
  site: "ELD",
  on_hand: 2,
  expired: 0,
  coming: 0,
  level: 2,
  load: 0,
  waits: 0,
  set_aside: 0,
  back: 0,
};
const row = (level: number | null) => ({
  number: "A",
  name: "Fan",
  kind: "fan",
  to_order: 0,
  cells: [{ ...cell, level }],
});
const tally = (changed: Partial<Tally>): Tally => ({
  as_of: "2026-11-01",
  sites: [],
  rows: [row(2)],
  week: [],
  unsaid: 0,
  below: 0,
  waiting: 0,
  transfers: [],
  counts: [],
  set_aside: 0,
  back: 0,
  top_ups: [],
  ...changed,
});

describe("what the stores say", () => {
  it("gives no all-clear from silence", () => {
    expect(sentence(tally({ rows: [] })).lead).toBe("What should lie where cannot be said yet");
    expect(sentence(tally({ rows: [row(null)], unsaid: 1 })).lead).toBe("What should lie where cannot be said yet");
    expect(sentence(tally({ rows: [row(2), row(null)], unsaid: 1 })).lead).toContain("of 1 it cannot");
  });
  it("counts shelves below their level and parts waited for", () => {
    expect(sentence(tally({}))).toEqual({ lead: "No shelf is below its level", rest: "nobody waits for a part" });
    expect(sentence(tally({ below: 1, waiting: 2 }))).toEqual({
      lead: "1 shelf below its level",
      rest: "2 parts are waited for",
    });
  });
});
