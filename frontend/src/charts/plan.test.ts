import { describe, expect, it } from "vitest";
import { fitText, nextItem, stem } from "./plan";

const items = [
  { id: "a", x: 0, y: 0 },
  { id: "b", x: 50, y: 0 },
  { id: "c", x: 20, y: 40 },
  { id: "d", x: 0, y: 60 },
];

describe("walking the plan", () => {
  it("goes to what lies straight ahead", () => {
    expect(nextItem(items, "a", "ArrowRight")?.id).toBe("b");
    expect(nextItem(items, "a", "ArrowDown")?.id).toBe("d");
    expect(nextItem(items, "d", "ArrowUp")?.id).toBe("a");
  });
  it("stays where nothing lies ahead, and begins with the first", () => {
    expect(nextItem(items, "a", "ArrowLeft")).toBeUndefined();
    expect(nextItem(items, null, "ArrowLeft")?.id).toBe("a");
    expect(nextItem([], null, "ArrowUp")).toBeUndefined();
  });
});

describe("marks", () => {
  it("draws a screw as long as its thread", () => {
    expect(stem("M2.5x8", "PH1 M2.5x8")).toBe(8);
    expect(stem("M2x20", "x")).toBe(12);
    expect(stem(null, "long")).toBe(8);
    expect(stem(null, "rim")).toBe(4);
  });
  it("shortens text to its box", () => {
    expect(fitText("Mainboard", 100, 5)).toBe("Mainboard");
    expect(fitText("Mainboard", 30, 5)).toBe("Mainb…");
    expect(fitText("Mainboard", 10, 5)).toBe("");
  });
});
