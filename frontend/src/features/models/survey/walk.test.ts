import { describe, expect, it } from "vitest";
import { emptyPage, type Operation, type Page } from "./document";
import { layerAbove, stopOf, stopsOf } from "./walk";

const page: Page = {
  ...emptyPage({ grade: "measured", source: "R. Pell", date: "2026-11-01" }, null),
  positions: [
    { key: "drive", label: "Drive", kind: "ssd" },
    { key: "board", label: "Mainboard", kind: "mainboard" },
    { key: "sink", label: "Heat sink", kind: "heat_sink" },
  ],
  operations: [
    { id: "cover", text: "Lift the base cover", layer: "base cover", exposes: ["board"] },
    { id: "drive_out", text: "Draw the drive out", needs: ["cover"], frees: ["drive"] },
    { id: "shield", text: "Lift the shield", needs: [{ any: ["drive_out", "cover"] }], layer: "shield" },
  ],
};
const fault = (where: string) => ({ where, message: "", cure: "", open: true, noted: false, line: null });

describe("the walk", () => {
  it("goes from outside through what comes off to what is left to say", () => {
    expect(stopsOf(page).map((stop) => [stop.id, stop.depth])).toEqual([
      ["machine", 0],
      ["opening", 0],
      ["inside", 0],
      ["step:cover", 0],
      ["part:board", 1],
      ["step:drive_out", 1],
      ["part:drive", 2],
      ["step:shield", 2],
      ["part:sink", 0],
      ["closing", 0],
    ]);
  });
  it("puts a new step under the layer at hand, not after the step before", () => {
    const [cover, out, shield] = page.operations as [Operation, Operation, Operation];
    expect(layerAbove([], undefined)).toBeNull();
    expect(layerAbove([cover, out], undefined)).toBe("cover");
    expect(layerAbove([cover, out, shield], out)).toBe("cover");
    expect(layerAbove([cover, out, shield], shield)).toBe("shield");
  });
  it("leads from a fault to where it is mended", () => {
    expect(stopOf(fault("positions[1].takes.form"), page)).toBe("part:board");
    expect(stopOf(fault("operations[0].minutes"), page)).toBe("step:cover");
    expect(stopOf(fault("opening.clip_rows[0]"), page)).toBe("opening");
    expect(stopOf(fault("notes[0]"), page)).toBe("closing");
    expect(stopOf(fault("identity"), page)).toBe("machine");
    expect(stopOf(fault("positions"), page)).toBe("inside");
  });
});
