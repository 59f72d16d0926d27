import { describe, expect, it } from "vitest";
import { marksOf, strokeWords } from "./Strokes";
import type { Cell } from "./stores.queries";

const cell = (changed: Partial<Cell>): Cell => ({
  site: "ELD",
  on_hand: 0,
  expired: 0,
  coming: 0,
  level: null,
  load: 0,
  waits: 0,
  set_aside: 0,
  back: 0,
  ...changed,
});

describe("strokes of a shelf", () => {
  it("never leaves out what is missing or waited for", () => {
    const { here, beside } = marksOf(cell({ on_hand: 30, level: 34, coming: 2, waits: 1 }));
    expect(here).toHaveLength(30);
    expect(beside).toEqual(["coming", "coming", "missing", "missing", "waits"]);
  });
  it("marks what lies above the level, and nothing above where none is known", () => {
    expect(marksOf(cell({ on_hand: 3, level: 2 })).here).toEqual(["shelf", "shelf", "above"]);
    expect(marksOf(cell({ on_hand: 3 })).here).toEqual(["shelf", "shelf", "shelf"]);
  });
  it("never takes what has expired for stock", () => {
    const { here, beside } = marksOf(cell({ on_hand: 2, expired: 1, level: 2 }));
    expect(here).toEqual(["shelf", "expired"]);
    expect(beside).toEqual(["missing"]);
  });
  it("says in words what the strokes say", () => {
    expect(strokeWords(cell({ on_hand: 1, level: 3, coming: 1, waits: 2 }))).toBe(
      "1 on the shelf, 1 coming, kept at 3, 1 missing, 2 waited for",
    );
  });
});
