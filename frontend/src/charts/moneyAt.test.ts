import { describe, expect, it } from "vitest";
import { waitingAt } from "./moneyAt";

const curve = [
  { money: 100, waiting: 900 },
  { money: 200, waiting: 300 },
  { money: 400, waiting: 100 },
];

describe("what a sum buys", () => {
  it("is read between two points", () => {
    expect(waitingAt(curve, 150)).toBe(600);
    expect(waitingAt(curve, 300)).toBe(200);
  });
  it("is that of a point at a point, and of the ends beyond them", () => {
    expect(waitingAt(curve, 200)).toBe(300);
    expect(waitingAt(curve, 20)).toBe(900);
    expect(waitingAt(curve, 4000)).toBe(100);
    expect(waitingAt([], 10)).toBe(0);
  });
});
