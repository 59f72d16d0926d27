/** What the field calls things, in the order people expect them. */

export const KINDS = ["memory", "ssd", "battery", "fan"] as const;

export const KIND_NAMES: Record<string, string> = {
  memory: "Memory",
  ssd: "SSD",
  battery: "Battery",
  fan: "Fan",
  mainboard: "Mainboard",
  keyboard: "Keyboard",
  palm_rest: "Palm rest",
  display: "Display",
  radio: "Radio",
  other: "Other",
};

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

export const SCHOOL_NAMES: Record<string, string> = { constant: "one constant rate", "wear-out": "by age" };

export const DUTY_NAMES: Record<string, string> = {
  office_hours: "office hours",
  two_shifts: "two shifts",
  round_the_clock: "round the clock",
};

export const AIR_NAMES: Record<string, string> = { office: "office air", salt: "salt air", dust: "dust" };

export const ROLE_NAMES: Record<string, string> = { lead: "lead", technician: "technician", reader: "reader" };

export const kindColour = (kind: string): string =>
  ["memory", "ssd", "battery", "fan"].includes(kind) ? `var(--${kind})` : "var(--other)";

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

const UNITS: [RegExp, string][] = [
  [/_gb$/, "GB"],
  [/_mm$/, "mm"],
  [/_mt_s$/, "MT/s"],
  [/_v$/, "V"],
  [/_ah$/, "Ah"],
  [/_wh$/, "Wh"],
];

/** The name of a fact with its unit: maximum_gb is "maximum, GB". */
export function factName(name: string): string {
  const unit = UNITS.find(([ending]) => ending.test(name));
  const plain = (unit ? name.replace(unit[0], "") : name).replaceAll("_", " ");
  return unit ? `${plain}, ${unit[1]}` : plain;
}
