import { KINDS as DECLARED, FACTS } from "@/api/declared";

/** What the field calls things, in the order people expect them. */

export type Kind = (typeof DECLARED)[number]["kind"];

/** Kinds that are forecast. */
export const KINDS: Kind[] = DECLARED.filter((spec) => spec.forecast).map((spec) => spec.kind);

export const KIND_NAMES: Record<string, string> = Object.fromEntries(DECLARED.map((spec) => [spec.kind, spec.name]));

export const FINDINGS = [
  "open",
  "confirmed",
  "no_fault_found",
  "damage",
  "dead_on_arrival",
  "upgrade",
  "preventive",
] as const;
export type FindingName = (typeof FINDINGS)[number];

export const FINDING_NAMES: Record<string, string> = {
  open: "open",
  confirmed: "failed, confirmed",
  no_fault_found: "no fault found",
  damage: "damage",
  dead_on_arrival: "dead on arrival",
  upgrade: "upgrade",
  preventive: "preventive swap",
};

/** What a life adds to its pool's rate, beside its time under observation. */
export const COUNTED_NAMES: Record<string, string> = {
  ...FINDING_NAMES,
  in_service: "in service",
  ended: "came out in order",
  left_out: "nothing: never under observation",
};

export const STREAM_NAMES: Record<string, string> = {
  wear_out: "Wear-out failures",
  dead_on_arrival: "Dead on arrival",
  damage: "Damage",
  no_fault_draw: "Draws without a fault found",
  planned: "Planned swaps",
  confirmed: "Confirmed failures",
  open: "Open findings",
};

export const SCHOOL_NAMES: Record<string, string> = {
  constant: "one constant rate",
  "wear-out": "by age",
  averaged: "both, averaged",
};

export const DUTY_NAMES: Record<string, string> = {
  office_hours: "office hours",
  two_shifts: "two shifts",
  round_the_clock: "round the clock",
};

export const AIR_NAMES: Record<string, string> = { office: "office air", salt: "salt air", dust: "dust" };

export const ROLE_NAMES: Record<string, string> = { lead: "lead", technician: "technician", reader: "reader" };

export const kindColour = (kind: string): string =>
  KINDS.some((name) => name === kind) ? `var(--${kind})` : "var(--other)";

export const HELD_NAMES: Record<string, string> = {
  socketed: "socketed",
  screwed: "screwed",
  clipped: "clipped",
  taped: "taped",
  glued: "glued",
  staked: "riveted",
  soldered: "soldered",
  in_assembly: "only in its assembly",
  unknown: "not known",
};

export const GRADE_NAMES: Record<string, string> = {
  measured: "measured",
  label: "read on label",
  reported: "reported by machine",
  document: "maker's document",
  inferred: "inferred",
  told: "told",
  assumed: "assumed",
};

export const FORM_NAMES: Record<string, string> = {
  notebook: "notebook",
  convertible: "convertible",
  all_in_one: "all-in-one",
  mini_pc: "mini PC",
  workstation: "mobile workstation",
};

export const VERDICT_NAMES: Record<string, string> = { yes: "fits", no: "does not fit", unknown: "not known" };

export const minutesWords = (minutes: number): string =>
  minutes < 10 ? `${minutes.toFixed(1)} min` : `${Math.round(minutes)} min`;

/** The name of a fact with its unit: maximum_gb is "maximum, GB"; one no rule reads says so. */
export function factName(name: string): string {
  const spec = FACTS.find((fact) => fact.name === name);
  if (spec) return spec.unit ? `${spec.label}, ${spec.unit}` : spec.label;
  const plain = name.replaceAll("_", " ");
  return name.startsWith("other_") ? `${plain.replace("other ", "")} (read by no rule)` : plain;
}

export type FactSpec = (typeof FACTS)[number];
export type FactSubject = FactSpec["of"][number];

/** Facts that may be stated of a kind, or of the machine. */
export const factsOf = (kind: string, subject: FactSubject): FactSpec[] =>
  FACTS.filter(
    (fact) =>
      fact.of.some((of) => of === subject) && (subject === "facts" || fact.kinds.some((of: string) => of === kind)),
  );
