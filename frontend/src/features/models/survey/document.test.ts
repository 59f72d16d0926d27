import { describe, expect, it } from "vitest";
import {
  boxText,
  byName,
  conditionText,
  emptyPage,
  keyFrom,
  kindOffered,
  minutesText,
  nextLabel,
  parseBox,
  parseCondition,
  parseCount,
  parseMinutes,
  parsePoints,
  parseValue,
  pointsText,
  valueText,
  withField,
} from "./document";

describe("quick entry", () => {
  it("makes keys that are free", () => {
    expect(keyFrom("Memory slot A", [])).toBe("memory_slot_a");
    expect(keyFrom("Fan, left", ["fan_left"])).toBe("fan_left_2");
    expect(keyFrom("?!", [])).toBe("part");
  });
  it("offers a kind where a name tells one, and none where it does not", () => {
    expect(kindOffered("Fan, left")).toBe("fan");
    expect(kindOffered("2.5-inch bay")).toBe("ssd");
    expect(kindOffered("Thing")).toBeNull();
  });
  it("tells several of a kind apart by a letter", () => {
    expect(nextLabel("Memory slot", [])).toBe("Memory slot A");
    expect(nextLabel("Memory slot", ["Memory slot A"])).toBe("Memory slot B");
    expect(nextLabel("Memory slot", ["Memory slot B"])).toBe("Memory slot A");
  });
  it("reads values as people type them", () => {
    expect(parseValue("yes")).toBe(true);
    expect(parseValue("30, 80")).toEqual([30, 80]);
    expect(parseValue("?")).toBeNull();
    expect(valueText(false)).toBe("no");
    expect(valueText({ black: "main" })).toBe("black: main");
  });
  it("begins a page that says nothing of what it is", () => {
    const page = emptyPage({ grade: "measured", source: "R. Pell", date: "2026-11-01" }, "Ostrel Packet 14");
    expect(page).toMatchObject({ maker: "Ostrel", name: "", inherits: "Ostrel Packet 14" });
  });
});

describe("what is typed on a line reads back as it was", () => {
  it("minutes: three, the ends, one, none", () => {
    expect(parseMinutes("2 3 7")).toEqual({ low: 2, likely: 3, high: 7 });
    expect(parseMinutes("2 5")).toEqual({ low: 2, likely: 3, high: 5 });
    expect(parseMinutes("4")).toBe(4);
    expect(parseMinutes("  ")).toBeNull();
    for (const minutes of [4, { low: 2, likely: 3.5, high: 6 }, null])
      expect(parseMinutes(minutesText(minutes))).toEqual(minutes);
  });
  it("points, places and counts", () => {
    const points = [
      [10, 8],
      [290.5, 8],
    ];
    expect(parsePoints(pointsText(points))).toEqual(points);
    expect(parsePoints("none")).toBeUndefined();
    const box = { x_mm: 20, y_mm: 16, width_mm: 78, depth_mm: 24.5 };
    expect(parseBox(boxText(box))).toEqual(box);
    expect(parseBox("20 16 78")).toBeUndefined();
    expect([parseCount("5"), parseCount(">= 3"), parseCount("?"), parseCount(" ")]).toEqual([5, ">=3", "?", undefined]);
  });
  it("conditions", () => {
    expect(parseCondition(conditionText({ battery: "56 Wh", radio: "fitted" }))).toEqual({
      battery: "56 Wh",
      radio: "fitted",
    });
    expect(parseCondition("")).toBeUndefined();
  });
});

it("leaves a field out that nobody fills any more", () => {
  expect(withField({ name: "foot", hides: 2 }, "hides", undefined)).toEqual({ name: "foot" });
  expect(withField({ name: "foot", hides: 2 }, "hides", ">=1")).toEqual({ name: "foot", hides: ">=1" });
});

it("loses no row to another of the same name", () => {
  expect(
    byName([
      ["a", 1],
      ["b", 2],
    ]),
  ).toEqual({ a: 1, b: 2 });
  expect(
    byName([
      ["a", 1],
      ["a", 2],
    ]),
  ).toBeNull();
});
