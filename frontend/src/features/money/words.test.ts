import { describe, expect, it } from "vitest";
import type { Money } from "./money.queries";
import { sentence } from "./words";

const found = (money: number, waiting: number): Money =>
  ({ beside: [{ name: "today", money, waiting, fill: 0.9 }] }) as unknown as Money;

describe("the sentence on money", () => {
  it("says what a sum loses, and that today's shelves stand wrong where they lose more for more", () => {
    expect(sentence(found(15_017, 541), 13_425, 92, "EUR")).toBe(
      "At €13,425 on shelves and boats machines wait 92 days a year for a part. Today's shelves tie up €15,017 and lose 541: they stand in the wrong places.",
    );
  });
  it("blames nobody where they tie up less", () => {
    expect(sentence(found(5000, 541), 13_425, 92, "EUR")).toMatch(/lose 541\.$/);
  });
  it("does without today where nothing stands anywhere", () => {
    expect(sentence({ beside: [] } as unknown as Money, 100, 5, "EUR")).toMatch(/for a part\.$/);
  });
});
