import type { Schemas } from "@/api/client";
import { KINDS as DECLARED, GRADES as DECLARED_GRADES, HELD, SIGNS } from "@/api/declared";

/** The page document under the pen: small pure moves, so that every one can be tested without a screen. */

export type Page = Schemas["Page"];
export type Position = Schemas["PositionEntry"];
export type Operation = Schemas["OperationEntry"];
export type Fact = Schemas["PageFact"];
export type Facts = Record<string, Fact[]>;
export type Evidence = Schemas["Evidence"];
export type Grade = Evidence["grade"];
/** Plain under the page's own evidence, statements where it is graded or sources differ. */
export type Stated = string | boolean | null | Fact[];
export type Held = (typeof HELD)[number];

export const GRADES: readonly Grade[] = DECLARED_GRADES;
export const HOLDS: readonly Held[] = HELD;
export const KINDS: readonly Position["kind"][] = DECLARED.map((spec) => spec.kind);
export const FORMS: Page["form"][] = ["notebook", "convertible", "all_in_one", "mini_pc", "workstation"];

export function emptyPage(evidence: Evidence, inherits: string | null): Page {
  return {
    page_format: 2,
    maker: inherits?.split(" ")[0] ?? "",
    name: "",
    family: "",
    form: "notebook",
    evidence,
    identity: {},
    positions: [],
    operations: [],
    ...(inherits ? { inherits } : {}),
  };
}

/** What is said first of an entry, however it is known; null where nobody knows. */
export function holds(value: unknown): string | boolean | null {
  const said = Array.isArray(value) ? (value as Fact[])[0]?.value : value;
  return typeof said === "string" || typeof said === "boolean" ? said : null;
}

/** A key from a label: small letters, digits and underscores, and not one that is taken. */
export function keyFrom(label: string, taken: string[]): string {
  const plain = label
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^_+|_+$/g, "");
  const base = plain || "part";
  if (!taken.includes(base)) return base;
  let number = 2;
  while (taken.includes(`${base}_${number}`)) number += 1;
  return `${base}_${number}`;
}

/** Kinds by the words that tell them, the particular before the general: "settings battery", "optical drive". */
const KIND_WORDS: [RegExp, Position["kind"]][] = SIGNS.map((sign) => [new RegExp(sign.words, "i"), sign.kind]);

/** The kind a name speaks of, to be offered; null where it tells none. */
export const kindOffered = (label: string): Position["kind"] | null =>
  KIND_WORDS.find(([sign]) => sign.test(label))?.[1] ?? null;

/** The next part of a kind of which there may be several: Memory slot A, Memory slot B. */
export function nextLabel(label: string, taken: string[]): string {
  const letters = "ABCDEFGH".split("");
  const free = letters.find((letter) => !taken.includes(`${label} ${letter}`));
  return `${label} ${free ?? taken.length + 1}`;
}

/** What a typed value means: yes and no, figures, lists by comma; nothing typed is not known. */
export function parseValue(text: string): Fact["value"] {
  const plain = text.trim();
  if (plain === "" || plain === "?") return null;
  if (/^(yes|true)$/i.test(plain)) return true;
  if (/^(no|false)$/i.test(plain)) return false;
  if (/^-?\d+(\.\d+)?$/.test(plain)) return Number(plain);
  const parts = plain.split(",").map((part) => part.trim());
  if (parts.length > 1 && parts.every((part) => /^-?\d+(\.\d+)?$/.test(part))) return parts.map(Number);
  return plain;
}

export function valueText(value: Fact["value"] | undefined): string {
  if (value === null || value === undefined) return "";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (Array.isArray(value)) return value.join(", ");
  if (typeof value === "object")
    return Object.entries(value)
      .map(([name, inner]) => `${name}: ${inner}`)
      .join(", ");
  return String(value);
}

export const words = (text: string): string[] =>
  text
    .split(",")
    .map((item) => item.trim())
    .filter(Boolean);

/** A list with one entry changed or removed. */
export const changed = <T>(list: readonly T[], at: number, next: T): T[] =>
  list.map((item, place) => (place === at ? next : item));
export const removed = <T>(list: readonly T[], at: number): T[] => list.filter((_, place) => place !== at);

/** An entry with one field said anew; what is not said is left out, not empty. */
export function withField<T extends object>(entry: T, key: keyof T & string, value: unknown): T {
  const { [key]: _, ...others } = entry;
  return (value === undefined ? others : { ...entry, [key]: value }) as T;
}

/** Entries under their names; nothing where two would have one name, for one of them would be lost. */
export function byName<T>(rows: [string, T][]): Record<string, T> | null {
  return new Set(rows.map(([name]) => name)).size === rows.length ? Object.fromEntries(rows) : null;
}

/** Two figures are the ends. */
function spread(first: number, last: number): { low: number; likely: number; high: number } {
  return { low: first, likely: Math.round(((first * 2 + last) / 3) * 10) / 10, high: last };
}

/** Minutes as typed: "2 3 5", "2 5", or "3", which stays one figure. */
export function parseMinutes(text: string): Operation["minutes"] {
  const figures = text
    .split(/[\s,/]+/)
    .filter(Boolean)
    .map(Number)
    .filter((value) => Number.isFinite(value) && value >= 0);
  const [low, likely, high] = figures;
  if (low === undefined) return null;
  if (likely === undefined) return low;
  return high === undefined ? spread(low, likely) : { low, likely, high };
}

export const minutesText = (minutes: Operation["minutes"]): string =>
  typeof minutes === "number" ? String(minutes) : minutes ? `${minutes.low} ${minutes.likely} ${minutes.high}` : "";

/** Points in mm: "10,8 290,8". */
export const pointsText = (points: number[][] | null | undefined): string =>
  (points ?? []).map((point) => point.join(",")).join(" ");

export function parsePoints(text: string): number[][] | undefined {
  const figures = text.match(/-?\d+(\.\d+)?/g)?.map(Number) ?? [];
  const pairs: number[][] = [];
  for (let at = 0; at + 1 < figures.length; at += 2) pairs.push([figures[at] ?? 0, figures[at + 1] ?? 0]);
  return pairs.length ? pairs : undefined;
}

type Box = Schemas["Spot"];

/** A place on the plan: "20 16 78x24". */
export const boxText = (box: Box | null | undefined): string =>
  box ? `${box.x_mm} ${box.y_mm} ${box.width_mm}x${box.depth_mm}` : "";

export function parseBox(text: string): Box | undefined {
  const [x, y, width, depth] = text.match(/-?\d+(\.\d+)?/g)?.map(Number) ?? [];
  if (x === undefined || y === undefined || !width || !depth) return undefined;
  return { x_mm: x, y_mm: y, width_mm: width, depth_mm: depth };
}

/** A count as far as somebody counted: 5, ">=3", "~8", "?". */
export function parseCount(text: string): number | string | undefined {
  const plain = text.replace(/\s/g, "");
  if (!plain) return undefined;
  return /^\d+$/.test(plain) ? Number(plain) : plain;
}

/** "battery: 56 Wh, radio: fitted": options a machine must have. */
export function parseCondition(text: string): Record<string, string> | undefined {
  const pairs = words(text).map((item) => item.split(":").map((part) => part.trim()));
  const found = Object.fromEntries(pairs.flatMap(([name, value]) => (name && value ? [[name, value]] : [])));
  return Object.keys(found).length ? found : undefined;
}

export const conditionText = (when: Position["when"]): string =>
  Object.entries(when ?? {})
    .map(([name, value]) => `${name}: ${value}`)
    .join(", ");
