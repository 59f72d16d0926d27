import { describe, expect, it } from "vitest";
import { browserName } from "./browser";

describe("what a browser calls itself", () => {
  it.each([
    ["Reader/5.0 (Bench system 7; 64 bit) Engine/5.3 (as others) Pages/130.0", "Bench system 7; 64 bit"],
    ["reports/8.5.0", "reports"],
    ["", ""],
  ])("is told from %s", (agent, name) => {
    expect(browserName(agent)).toBe(name);
  });
});
