import { day, figure } from "@/lib/format";
import { DUTY_NAMES, KIND_NAMES } from "@/lib/words";
import type { Change } from "./scenarios.queries";

/** A change in words: "retire all Packet 14 at ELD on 15 Jan 2027". */
export function changeWords(change: Change, modelName: (id: number) => string): string {
  if (change.do === "season") {
    const kinds = change.kinds.map((kind) => (KIND_NAMES[kind] ?? kind).toLowerCase()).join(", ");
    return `${kinds} age ${figure(change.factor, 2)} times as fast from ${day(change.on)} until ${day(change.until)}`;
  }
  const where = change.site ? ` at ${change.site}` : "";
  const model = modelName(change.model_id);
  if (change.do === "move") return `run all ${model}${where} ${DUTY_NAMES[change.duty] ?? change.duty}`;
  if (change.do === "swap") {
    const machines = change.quantity ?? "all";
    return `put ${change.part_number} into ${change.position} of ${machines} ${model}${where} on ${day(change.on)}`;
  }
  if (change.do === "buy") return `buy ${change.quantity} ${model} for ${change.site} on ${day(change.on)}`;
  return `retire ${change.quantity ?? "all"} ${model}${where} on ${day(change.on)}`;
}

/** The changes an address carries; none where it carries something else. */
export function changesOf(text: string | null): Change[] {
  try {
    const found: unknown = JSON.parse(text ?? "[]");
    return Array.isArray(found) ? (found as Change[]).filter((change) => typeof change?.do === "string") : [];
  } catch {
    return [];
  }
}
