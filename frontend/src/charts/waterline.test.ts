import { describe, expect, it } from "vitest";
import { band, polyline, positions, waterline } from "./waterline";

const points = [
  { day: 0, low: 4, median: 4, high: 4 },
  { day: 30, low: -2, median: 1, high: 3 },
  { day: 60, low: 0, median: 4, high: 8 },
];

describe("waterline", () => {
  it("falls between month ends and steps up where parts arrive", () => {
    const line = waterline(points, [{ day: 45, quantity: 6 }], "median");
    expect(line).toEqual([
      [0, 4],
      [30, 1],
      [45, -0.5],
      [45, 5.5],
      [60, 4],
    ]);
  });

  it("is the month ends alone without arrivals", () => {
    expect(waterline(points, [], "low")).toEqual([
      [0, 4],
      [30, -2],
      [60, 0],
    ]);
  });

  it("leaves out arrivals after the last month", () => {
    expect(waterline(points, [{ day: 90, quantity: 6 }], "high")).toHaveLength(3);
  });
});

describe("positions", () => {
  it("counts what is still on its way until it is there", () => {
    const arrivals = [{ day: 45, quantity: 6 }];
    expect(positions(points, arrivals).map((point) => point.median)).toEqual([10, 7, 4]);
    expect(positions(points, [])).toEqual(points);
  });
});

describe("paths", () => {
  const same = (value: number): number => value;
  it("draws a line and a closed band", () => {
    const line = waterline(points, [], "median");
    expect(polyline(line, same, same)).toBe("M0.0,4.0L30.0,1.0L60.0,4.0");
    expect(band(line, line, same, same).endsWith("Z")).toBe(true);
  });
});
