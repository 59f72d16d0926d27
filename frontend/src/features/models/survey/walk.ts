import type { Schemas } from "@/api/client";
import type { Operation, Page, Position } from "./document";

/** The stops of a walk through a machine: outside, how it opens, then what comes off and what lies beneath, and what is left to say. */

export interface Stop {
  id: string;
  label: string;
  depth: number;
  what: "machine" | "inside" | "opening" | "step" | "part" | "closing";
  /** Of a step or part: its key. */
  of: string;
}

export const stepStop = (id: string): string => `step:${id}`;
export const partStop = (key: string): string => `part:${key}`;

const fixed = (what: Stop["what"], label: string): Stop => ({ id: what, label, depth: 0, what, of: "" });

/** What the user is walked past, in the order it comes to hand. */
export function stopsOf(page: Page): Stop[] {
  const steps = page.operations ?? [];
  const parts = page.positions ?? [];
  const depth = depths(steps);
  // A part stands by the step that takes it out; while nobody wrote one, where it lies bare.
  const out = new Set(steps.flatMap((step) => step.frees ?? []));
  const shown = new Set<string>();
  const inside = steps.flatMap((step) => {
    const below = (depth.get(step.id) ?? 0) + 1;
    const bare = (step.exposes ?? []).filter((key) => !out.has(key));
    const beneath = parts.filter((part) => [...(step.frees ?? []), ...bare].includes(part.key) && !shown.has(part.key));
    for (const part of beneath) shown.add(part.key);
    const stop: Stop = {
      id: stepStop(step.id),
      label: shortly(step, parts),
      depth: below - 1,
      what: "step",
      of: step.id,
    };
    return [stop, ...beneath.map((part) => partOf(part, below))];
  });
  const left = parts.filter((part) => !shown.has(part.key)).map((part) => partOf(part, 0));
  return [
    fixed("machine", "The machine"),
    fixed("opening", "How it opens"),
    fixed("inside", "What is inside"),
    ...inside,
    ...left,
    fixed("closing", "What is left to say"),
  ];
}

/** A step by its layer or by what it takes out, else by its words. */
function shortly(step: Operation, parts: Position[]): string {
  if (step.layer) return step.layer.charAt(0).toUpperCase() + step.layer.slice(1);
  const taken = parts.filter((part) => (step.frees ?? []).includes(part.key));
  return taken.length ? `Out: ${taken.map((part) => part.label).join(" and ")}` : step.text;
}

const partOf = (part: Position, depth: number): Stop => ({
  id: partStop(part.key),
  label: part.label,
  depth,
  what: "part",
  of: part.key,
});

/** How many steps a step lies beneath. */
function depths(steps: Operation[]): Map<string, number> {
  const found = new Map<string, number>();
  for (const step of steps) {
    const above = names(step).map((name) => found.get(name) ?? -1);
    found.set(step.id, Math.min(4, Math.max(-1, ...above) + 1));
  }
  return found;
}

const names = (step: Operation): string[] =>
  (step.needs ?? []).flatMap((need) => (typeof need === "string" ? [need] : "any" in need ? need.any : [need.done]));

/** The layer a new step lies beneath: the one at hand, else the last that was taken off. */
export function layerAbove(steps: Operation[], at: Operation | undefined): string | null {
  if (at?.layer) return at.id;
  const above = at ? steps.find((step) => step.layer && names(at).includes(step.id)) : undefined;
  return above?.id ?? steps.filter((step) => step.layer).at(-1)?.id ?? null;
}

type Fault = Schemas["PageFaultView"];

/** The stop at which a fault is mended. */
export function stopOf(fault: Fault, page: Page): string {
  const [, several, at] = /^(positions|operations)\[(\d+)\]/.exec(fault.where) ?? [];
  if (several === "positions") return partStop(page.positions?.[Number(at)]?.key ?? "");
  if (several === "operations") return stepStop(page.operations?.[Number(at)]?.id ?? "");
  if (/^(opening|plan)/.test(fault.where)) return "opening";
  if (/^(positions|operations)/.test(fault.where)) return "inside";
  return /^(claims|notes)/.test(fault.where) ? "closing" : "machine";
}
