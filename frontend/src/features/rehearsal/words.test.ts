import { describe, expect, it } from "vitest";
import type { Rehearsal } from "./rehearsal.queries";
import { error, ofHundred, played, ruleName } from "./words";

const found = (value: number, aim: number | null): Rehearsal =>
  ({ whole: { fill: { value, error: 0.001 } }, aim }) as unknown as Rehearsal;

describe("a rehearsal in words", () => {
  it("says how many found their part and what was the aim", () => {
    expect(played(found(0.958, 0.95))).toBe("95.8 of 100 found their part on the shelf; 95 was the aim");
  });
  it("says where the aim is not reached, and not for luck alone", () => {
    expect(played(found(0.91, 0.95))).toMatch(/and it is not reached$/);
    expect(played(found(0.949, 0.95))).not.toMatch(/not reached/);
  });
  it("promises nothing of a rule without an aim", () => {
    expect(played(found(0.65, null))).toBe("65.0 of 100 found their part on the shelf");
  });
  it("shows no more digits than the error leaves", () => {
    expect(ofHundred({ value: 0.958, error: 0.02 })).toBe("96 of 100");
    expect(ofHundred(null)).toBe("nobody asked");
    expect(error({ error: 0.0004 })).toBe("0.04");
    expect(error({ error: 0.012 })).toBe("1.2");
  });
  it("names rules", () => {
    expect([ruleName("plan"), ruleName("aim-0.98"), ruleName("today")]).toEqual([
      "The plan",
      "Aim: 98 of 100",
      "Shelves kept as they stand today",
    ]);
  });
});
