import { describe, expect, it } from "vitest";
import type { Schemas } from "@/api/client";
import { aroundOf, boxesOf, marksOf, shapeOf } from "./planMarks";

const at = (x_mm: number, y_mm: number) => ({ x_mm, y_mm });

const step = {
  id: "open:cover",
  text: "Lift the cover",
  fasteners: [
    { group: "long", kind: "screw", thread: "M2.5", captive: false, words: "PH1 M2.5x8", at: [at(5, 5), at(95, 5)] },
    { group: "rim", kind: "latch", thread: null, captive: null, words: "latches", at: [at(50, 0)] },
  ],
  plugs: [
    { name: "fan lead", kind: "press_fit", release: "left", release_at: "right", at: at(20, 30) },
    { name: "antenna", kind: "snap_on", release: "straight up", at: at(60, 30) },
    { name: "touch pad", kind: "flip_lock", release: null, at: null },
  ],
  lift_points: [at(10, 60)],
  keep_out: [{ x_mm: 10, y_mm: 10, width_mm: 20, depth_mm: 5, reason: "a lead lies beneath" }],
  clips: [{ side: "left", at: "right", words: "start here, 5 clips" }],
  aside: [],
  doubts: [],
} as unknown as Schemas["StepView"];

describe("marks of a step on the plan", () => {
  it("draws every place of a group, every plug that has one, and where to lift", () => {
    const marks = marksOf(step, true);
    expect(marks.map((mark) => mark.id)).toEqual([
      "open:cover/0/0",
      "open:cover/0/1",
      "open:cover/1/0",
      "open:cover/fan lead",
      "open:cover/antenna",
      "open:cover/lift/0",
    ]);
    expect(marks.every((mark) => mark.lit && !mark.faint)).toBe(true);
    expect(marks[1]).toMatchObject({ x: 95, y: 5, shape: "loose", thread: "M2.5" });
  });

  it("says in words what a mark is, for those who hear the plan", () => {
    const words = marksOf(step, false).map((mark) => mark.words);
    expect(words[0]).toBe("PH1 M2.5x8 (Lift the cover)");
    expect(words[3]).toBe("fan lead: press fit, releases towards the left");
    expect(words[4]).toBe("antenna: snap on, releases straight up");
    expect(words[5]).toBe("lift here (Lift the cover)");
  });

  it("tells captive, loose, unknown and turned fasteners apart by shape", () => {
    expect(shapeOf({ kind: "screw", captive: true })).toBe("captive");
    expect(shapeOf({ kind: "screw", captive: false })).toBe("loose");
    expect(shapeOf({ kind: "screw", captive: null })).toBe("open");
    expect(shapeOf({ kind: "cam", captive: null })).toBe("cam");
    expect(shapeOf({ kind: "latch", captive: true })).toBe("cam");
  });
});

describe("parts of the opened base", () => {
  const place = { x_mm: 1, y_mm: 2, width_mm: 30, depth_mm: 20 };
  const page = {
    positions: [
      { key: "fan_left", label: "Fan, left", kind: "fan", serviceability: "screwed", place },
      { key: "battery", label: "Battery", kind: "battery", serviceability: "screwed", place },
      { key: "memory_a", label: "Memory", kind: "memory", serviceability: "soldered", place },
      { key: "ssd", label: "SSD", kind: "ssd", serviceability: "screwed", place: null },
    ],
  } as unknown as Schemas["ModelPageView"];

  it("shows what has a place and can come out, and picks what the step frees", () => {
    const boxes = boxesOf(page, ["fan_left"]);
    expect(boxes.map((box) => [box.key, box.chosen, box.covered])).toEqual([
      ["fan_left", true, false],
      ["battery", false, true],
    ]);
    expect(boxes[0]).toMatchObject({ x: 1, y: 2, width: 30, depth: 20, colour: "var(--fan)" });
  });
});

describe("what lies around a step", () => {
  it("is drawn where a place is known", () => {
    expect(aroundOf(step)).toEqual({
      zones: [{ x: 10, y: 10, width: 20, depth: 5, reason: "a lead lies beneath" }],
      edges: [{ at: "right", words: "start here, 5 clips" }],
    });
    expect(marksOf(step, true).find((mark) => mark.group === "fan lead")?.towards).toBe("right");
    expect(aroundOf(undefined)).toEqual({ zones: [], edges: [] });
  });
});
