import { describe, expect, it } from "vitest";
import { stepBand, stepPath } from "./steps";

const same = (value: number): number => value;
const points = [
  { age: 1, survival: 0.9, low: 0.8, high: 0.95 },
  { age: 3, survival: 0.5, low: null, high: null },
];

describe("steps", () => {
  it("hold their value until the next place", () => {
    expect(stepPath(points, 0, 4, same, same)).toBe("M0 1 H1 V0.9 H3 V0.5 H4");
  });

  it("have a band that closes, also where there is no limit", () => {
    const band = stepBand(points, 0, 4, same, same);
    expect(band.startsWith("M0 1 H1 V0.95 H3 V0.5 H4")).toBe(true);
    expect(band.endsWith("L1 1 Z")).toBe(true);
    expect(stepBand([], 0, 4, same, same)).toBe("");
  });
});
