import type { Rehearsal } from "./rehearsal.queries";

/** "95.7 of 100": with a digit where its error leaves one. */
export function ofHundred(share: { value: number; error?: number } | null): string {
  if (share === null) return "nobody asked";
  const digits = (share.error ?? 0) * 100 < 0.5 ? 1 : 0;
  return `${(share.value * 100).toFixed(digits)} of 100`;
}

/** The error of a share, in parts of a hundred. */
export function error(share: { error: number }): string {
  const of = share.error * 100;
  return of < 0.095 ? of.toFixed(2) : of.toFixed(1);
}

const NAMES: Record<string, string> = {
  "one-left": "Order when one is left",
  "fixed-share": "A fixed share of the fleet",
  today: "Shelves kept as they stand today",
};

/** A rule in words. */
export function ruleName(rule: string): string {
  if (rule === "plan") return "The plan";
  if (rule.startsWith("aim-")) return `Aim: ${Math.round(Number(rule.slice(4)) * 100)} of 100`;
  return NAMES[rule] ?? rule;
}

const ABOUT: Record<string, string> = {
  plan: "Reorder points and levels as the outlook has them, worked out anew as the fleet ages, shrinks and is changed as planned.",
  "one-left":
    "Every part is ordered when one is left at the depot, the smallest order at a time; a site that uses any keeps one.",
  "fixed-share":
    "Of every part the company's fixed share of the units in service is kept, shared out by where it is asked for.",
  today: "Every shelf is kept where it stands today, what is coming counted.",
};

export const ruleAbout = (rule: string): string =>
  ABOUT[rule] ?? "As the plan, with this aim in place of every part's own.";

/** "Played for two years, 200 times: 95.7 of 100 found their part; 95 was the aim." */
export function played(found: Rehearsal): string {
  const met = ofHundred(found.whole.fill);
  const aim = found.aim === null ? "" : `; ${Number((found.aim * 100).toFixed(2))} was the aim`;
  const fell =
    found.whole.fill && found.aim !== null && found.whole.fill.value + 2 * found.whole.fill.error < found.aim;
  return `${met} found their part on the shelf${aim}${fell ? ", and it is not reached" : ""}`;
}
