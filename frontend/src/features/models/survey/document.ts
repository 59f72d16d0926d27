import type { Schemas } from "@/api/client";
import { KINDS as DECLARED, GRADES as DECLARED_GRADES, HELD, SIGNS } from "@/api/declared";
import { factsOf } from "@/lib/words";

/** The page document under the pen: small pure moves, so that every one can be tested without a screen. */

export type Page = Schemas["Page"];
export type Position = Schemas["PositionEntry"];
export type Operation = Schemas["OperationEntry"];
export type Fact = Schemas["PageFact"];
export type Facts = Record<string, Fact[]>;
export type Evidence = Schemas["Evidence"];
export type Grade = Evidence["grade"];

export const GRADES: readonly Grade[] = DECLARED_GRADES;
export const HOLDS: readonly NonNullable<Position["serviceability"]>[] = HELD;
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

/** "Fan, left; screwed" or "memory slot A; socketed": a position from one line, its kind told from its name. */
export function positionFrom(line: string, taken: string[]): Position | null {
  const [label = "", ...words] = line.split(";").map((part) => part.trim());
  if (!label) return null;
  const kind =
    KINDS.find((name) => words.includes(name)) ?? KIND_WORDS.find(([sign]) => sign.test(label))?.[1] ?? "other";
  const held = HOLDS.find((name) => words.includes(name.replace("_", " ")) || words.includes(name)) ?? "unknown";
  return { key: keyFrom(label, taken), label, kind, serviceability: held };
}

/** A label read beside a place: what is stated of the place where it was typed stays there, the rest goes to the other. */
export function withReading(position: Position, subject: "takes" | "fitted", read: Facts): Position {
  const here = new Set<string>(factsOf(position.kind, subject).map((spec) => spec.name));
  const other = subject === "takes" ? "fitted" : "takes";
  const there = new Set<string>(factsOf(position.kind, other).map((spec) => spec.name));
  const moved = Object.entries(read).filter(([name]) => !here.has(name) && there.has(name));
  const kept = Object.entries(read).filter(([name]) => here.has(name) || !there.has(name));
  const next = { ...position, [subject]: { ...position[subject], ...Object.fromEntries(kept) } };
  if (moved.length === 0) return next;
  return { ...next, [other]: { ...position[other], ...Object.fromEntries(moved) } };
}

export interface OperationLine {
  operation: Operation;
  fasteners: string;
}

const TOOL = /^((PH|JIS|TR|T|H|SL|PZ|P)\d{1,3}\??(\s*\+\s*(PH|JIS|TR|T|H|SL|PZ|P)\d{1,3})*|hands?|by hand)$/i;
const MINUTES = /^(\d+(?:\.\d+)?)(?:\s*(?:to|-)\s*(\d+(?:\.\d+)?))?\s*min(?:utes)?$/i;

/** "Lift the base cover; PH1; 2 to 5 min; 6x PH1 M2.5x4 captive": what is neither tool nor minutes is fasteners. */
export function operationFrom(line: string, taken: string[]): OperationLine | null {
  const [text = "", ...words] = line.split(";").map((part) => part.trim());
  if (!text) return null;
  const tool = words.find((word) => TOOL.test(word));
  const minutes = words.map((word) => MINUTES.exec(word)).find(Boolean);
  const rest = words.filter((word) => word !== tool && !MINUTES.test(word) && word);
  const operation: Operation = {
    id: keyFrom(text.split(" ").slice(0, 5).join(" "), taken),
    text,
    seal: null, // nobody has said that it breaks none
    ...(tool ? { tool: /hand/i.test(tool) ? "hands" : tool.toUpperCase() } : {}),
    ...(minutes ? { minutes: minutes[2] ? spread(Number(minutes[1]), Number(minutes[2])) : Number(minutes[1]) } : {}),
  };
  return { operation, fasteners: rest.join(", ") };
}

/** Two figures are the ends. */
export function spread(first: number, last: number): { low: number; likely: number; high: number } {
  const round = (value: number): number => Math.round(value * 10) / 10;
  return { low: first, likely: round((first * 2 + last) / 3), high: last };
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

/** Needs as a line: steps by comma, alternatives by a bar. */
export function needsText(needs: Operation["needs"]): string {
  return (needs ?? []).map((need) => (typeof need === "string" ? need : need.any.join(" | "))).join(", ");
}

export function parseNeeds(text: string): NonNullable<Operation["needs"]> {
  return words(text).map((item) => {
    const any = item.split("|").map((name) => name.trim());
    return any.length > 1 ? { any } : item;
  });
}

export const words = (text: string): string[] =>
  text
    .split(",")
    .map((item) => item.trim())
    .filter(Boolean);

type Plug = NonNullable<Operation["plugs"]>[number];
const PLUG_KINDS: Plug["kind"][] = [
  "slide",
  "press_fit",
  "bail",
  "flip_latch",
  "tab",
  "screwed_plate",
  "antenna",
  "other",
];
const SIDES = ["hinge", "front", "left", "right"] as const;

/** "battery lead: slide, front; display lead: bail, hinge": plugs with their kind and release side. */
export function parsePlugs(text: string): Plug[] {
  return text
    .split(";")
    .map((item) => item.trim())
    .filter(Boolean)
    .map((item) => {
      const [name = "", how = ""] = item.split(":").map((part) => part.trim());
      const said = words(how).map((word) => word.toLowerCase());
      const kind =
        PLUG_KINDS.find((known) => said.includes(known) || said.includes(known.replace("_", " "))) ?? "other";
      const release = said.includes("straight up") ? "straight up" : SIDES.find((side) => said.includes(side));
      return { name, kind, ...(release ? { release } : {}) };
    });
}

export const plugsText = (plugs: Operation["plugs"]): string =>
  (plugs ?? [])
    .map((plug) => `${plug.name}: ${[plug.kind.replace("_", " "), plug.release].filter(Boolean).join(", ")}`)
    .join("; ");

/** A list with one entry changed, removed, or moved one place. */
export const changed = <T>(list: T[], at: number, next: T): T[] =>
  list.map((item, place) => (place === at ? next : item));
export const removed = <T>(list: T[], at: number): T[] => list.filter((_, place) => place !== at);

/** Minutes as typed: "2 3 5", "2 5", or "3", which stays one figure. */
export function parseMinutes(text: string): Operation["minutes"] {
  const figures = text
    .split(/[\s,/]+/)
    .map(Number)
    .filter((value) => Number.isFinite(value) && value >= 0);
  const [low, likely, high] = text.trim() === "" ? [] : figures;
  if (low === undefined) return null;
  if (likely === undefined) return low;
  return high === undefined ? spread(low, likely) : { low, likely, high };
}

export const minutesText = (minutes: Operation["minutes"]): string =>
  typeof minutes === "number" ? String(minutes) : minutes ? `${minutes.low} ${minutes.likely} ${minutes.high}` : "";
