import type { Schemas } from "@/api/client";
import { kindColour } from "@/lib/words";
import type { PlanBox, PlanEdge, PlanMark, PlanZone } from "./PlanDrawing";

type StepView = Schemas["StepView"];

/** Every fastener, plug and lifting point of a step that has a place on the plan. */
export function marksOf(step: StepView, lit: boolean, faint = false): PlanMark[] {
  const screws = step.fasteners.flatMap((item, group) =>
    item.at.map((point, place) => ({
      id: `${step.id}/${group}/${place}`,
      x: point.x_mm,
      y: point.y_mm,
      shape: shapeOf(item),
      thread: item.thread,
      group: item.group,
      lit,
      faint,
      words: `${item.words} (${step.text})`,
      hidden: Boolean(item.hidden),
    })),
  );
  const plugs = step.plugs.flatMap((plug) =>
    plug.at
      ? [
          {
            id: `${step.id}/${plug.name}`,
            x: plug.at.x_mm,
            y: plug.at.y_mm,
            shape: "plug" as const,
            thread: null,
            group: plug.name,
            lit,
            faint,
            towards: plug.release_at,
            words: `${plug.name}: ${plug.kind.replace("_", " ")}${plug.release ? `, releases ${release(plug.release)}` : ""}`,
          },
        ]
      : [],
  );
  const lifts = step.lift_points.map((point, place) => ({
    id: `${step.id}/lift/${place}`,
    x: point.x_mm,
    y: point.y_mm,
    shape: "lift" as const,
    thread: null,
    group: "lift",
    lit,
    faint,
    words: `lift here (${step.text})`,
  }));
  return [...screws, ...plugs, ...lifts];
}

const release = (side: string): string => (side === "straight up" ? side : `towards the ${side}`);

export function shapeOf(item: { captive: boolean | null; kind: string }): PlanMark["shape"] {
  if (item.kind === "cam" || item.kind === "latch") return "cam";
  if (item.captive === null) return "open";
  return item.captive ? "captive" : "loose";
}

/** Zones a step keeps levers out of, and clips along the edges of the cover it lifts. */
export const aroundOf = (step: StepView | undefined): { zones: PlanZone[]; edges: PlanEdge[] } => ({
  zones: (step?.keep_out ?? []).map((zone) => ({
    x: zone.x_mm,
    y: zone.y_mm,
    width: zone.width_mm,
    depth: zone.depth_mm,
    reason: zone.reason,
  })),
  edges: (step?.clips ?? []).map((clip) => ({ at: clip.at, words: clip.words })),
});

/** Every part of the opened base; what a step frees stands out, the rest lies back. */
export function boxesOf(page: Schemas["ModelPageView"], frees: string[]): PlanBox[] {
  return page.positions.flatMap((entry) =>
    entry.place && entry.serviceability !== "soldered"
      ? [
          {
            key: entry.key,
            label: entry.label,
            note: "",
            colour: kindColour(entry.kind),
            x: entry.place.x_mm,
            y: entry.place.y_mm,
            width: entry.place.width_mm,
            depth: entry.place.depth_mm,
            chosen: frees.includes(entry.key),
            covered: !frees.includes(entry.key),
            soldered: false,
            words: "",
          },
        ]
      : [],
  );
}
