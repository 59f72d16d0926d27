import { describe, expect, it } from "vitest";
import type { Schemas } from "@/api/client";
import { playedWords, trust } from "./trust";

type Calibration = Schemas["CalibrationView"];
type Marks = Schemas["MarksView"];

const marks: Marks = {
  name: "all",
  forecasts: 380,
  covered_half: 0.52,
  covered_most: 0.914,
  expected: 800,
  seen: 780,
  crps: 0.8,
  last_year: 1.2,
  fixed_share: 1.4,
  plain: null,
  histogram: [],
};
const found: Calibration = { quarters_tried: 12, first: "2023-10-01", marks: [marks], quarters: [], worst: [] };

describe("the line of trust", () => {
  it("says how many counts fell within their interval", () => {
    expect(trust(found)).toBe("91% of the counts of the past 12 quarters fell within their 90% interval");
  });
  it("says nothing where nothing was held", () => {
    expect(trust(undefined)).toBeNull();
    expect(trust({ ...found, marks: [] })).toBeNull();
  });
});

describe("how the plan was played", () => {
  it("says how many found their part, and the aim", () => {
    const told = { fill: { value: 0.957, error: 0.001 }, aim: 0.95, years: 2 };
    expect(playedWords(told)).toBe("played for 2 years, 96 of 100 found their part; 95 was the aim");
  });
  it("says nothing while it was never played", () => {
    expect(playedWords({ fill: null, aim: null, years: null })).toBeNull();
    expect(playedWords(undefined)).toBeNull();
  });
});
