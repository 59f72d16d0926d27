import { describe, expect, it } from "vitest";
import { COUNTED_NAMES, FINDING_NAMES, FINDINGS, factName, KIND_NAMES, KINDS, kindColour, minutesWords } from "./words";

describe("words of the field", () => {
  it("names a fact with its unit", () => {
    expect(factName("maximum_gb")).toBe("maximum, GB");
    expect(factName("grade_mt_s")).toBe("grade, MT/s");
    expect(factName("energy_wh")).toBe("energy, Wh");
    expect(factName("capacity_ah")).toBe("charge, Ah");
    expect(factName("form")).toBe("form");
    expect(factName("other_sticker")).toBe("sticker (read by no rule)");
  });

  it("says short times to the tenth of a minute and long ones to the minute", () => {
    expect(minutesWords(0.25)).toBe("0.3 min");
    expect(minutesWords(9.94)).toBe("9.9 min");
    expect(minutesWords(12.4)).toBe("12 min");
  });

  it("has a name for every kind that is forecast and for every finding", () => {
    for (const kind of KINDS) {
      expect(KIND_NAMES[kind]).toBeTruthy();
      expect(kindColour(kind)).toBe(`var(--${kind})`);
    }
    expect(kindColour("mainboard")).toBe("var(--other)");
    for (const finding of FINDINGS) {
      expect(FINDING_NAMES[finding]).toBeTruthy();
      expect(COUNTED_NAMES[finding]).toBe(FINDING_NAMES[finding]);
    }
  });
});
