import { describe, expect, it } from "vitest";
import {
  emptyPage,
  type Fact,
  keyFrom,
  minutesText,
  needsText,
  operationFrom,
  parseMinutes,
  parseNeeds,
  parsePlugs,
  parseValue,
  plugsText,
  positionFrom,
  valueText,
  withReading,
} from "./document";

const said = (value: string | number): Fact => ({ value, source: "R. Pell", grade: "label", date: "2026-11-01" });

describe("quick entry", () => {
  it("makes keys that are free", () => {
    expect(keyFrom("Memory slot A", [])).toBe("memory_slot_a");
    expect(keyFrom("Fan, left", ["fan_left"])).toBe("fan_left_2");
    expect(keyFrom("?!", [])).toBe("part");
  });
  it("puts what a label states of the part beside the part, wherever it was typed", () => {
    const slot = { key: "memory_slot_a", label: "Memory slot A", kind: "memory", serviceability: "socketed" } as const;
    const read = { generation: [said("DDR4")], ranks: [said(1)] };
    const typed = withReading(slot, "takes", read);
    expect(Object.keys(typed.takes ?? {})).toEqual(["generation"]);
    expect(Object.keys(typed.fitted ?? {})).toEqual(["ranks"]);
    expect(Object.keys(withReading(slot, "fitted", read).fitted ?? {})).toEqual(["generation", "ranks"]);
  });
  it("tells a position's kind from its name and how it is held from the words", () => {
    expect(positionFrom("Fan, left; screwed", [])).toEqual({
      key: "fan_left",
      label: "Fan, left",
      kind: "fan",
      serviceability: "screwed",
    });
    expect(positionFrom("2.5-inch bay", [])?.kind).toBe("ssd");
    expect(positionFrom("Thing; keyboard; in assembly", [])).toMatchObject({
      kind: "keyboard",
      serviceability: "in_assembly",
    });
    expect(positionFrom("  ", [])).toBeNull();
  });
  it("reads a step with its tool, minutes and fasteners", () => {
    const read = operationFrom("Lift the base cover; ph1; 2 to 5 min; 6x PH1 M2.5x4 captive", []);
    expect(read?.operation).toEqual({
      id: "lift_the_base_cover",
      text: "Lift the base cover",
      seal: null,
      tool: "PH1",
      minutes: { low: 2, likely: 3, high: 5 },
    });
    expect(read?.fasteners).toBe("6x PH1 M2.5x4 captive");
    expect(operationFrom("", [])).toBeNull();
  });
});

describe("fields", () => {
  it("takes yes, figures, lists and nothing for what they are", () => {
    expect(["yes", "no", "7.5", "30, 80", "", "?", "SO-DIMM"].map(parseValue)).toEqual([
      true,
      false,
      7.5,
      [30, 80],
      null,
      null,
      "SO-DIMM",
    ]);
    for (const value of [true, 7, [30, 80], "NVMe"]) expect(parseValue(valueText(value))).toEqual(value);
    expect(valueText(null)).toBe("");
  });
  it("keeps alternatives of what a step needs", () => {
    expect(parseNeeds("cover, small | large")).toEqual(["cover", { any: ["small", "large"] }]);
    expect(needsText(parseNeeds("cover, small | large"))).toBe("cover, small | large");
  });
  it("reads plugs with kind and side", () => {
    expect(parsePlugs("battery lead: slide, front; ribbon: flip latch; odd")).toEqual([
      { name: "battery lead", kind: "slide", release: "front" },
      { name: "ribbon", kind: "flip_latch" },
      { name: "odd", kind: "other" },
    ]);
    expect(plugsText(parsePlugs("a: bail, hinge"))).toBe("a: bail, hinge");
  });
  it("reads minutes as one, two or three figures", () => {
    expect(parseMinutes("3")).toBe(3);
    expect(minutesText(3)).toBe("3");
    expect(parseMinutes("2 5")).toEqual({ low: 2, likely: 3, high: 5 });
    expect(parseMinutes("2 3 5")).toEqual({ low: 2, likely: 3, high: 5 });
    expect(parseMinutes("")).toBeNull();
    expect(minutesText(parseMinutes("2 3 5") ?? null)).toBe("2 3 5");
  });
  it("begins a page that inherits with its maker", () => {
    const evidence = { grade: "measured" as const, source: "x", date: "2026-01-01" };
    expect(emptyPage(evidence, "Ostrel Packet 14")).toMatchObject({ maker: "Ostrel", inherits: "Ostrel Packet 14" });
    expect(emptyPage(evidence, null)).not.toHaveProperty("inherits");
  });
});
