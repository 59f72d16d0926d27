/** Figures and days as people read them: with their unit, never more digits than they carry. */

const DAY = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" });
const SHORT_DAY = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", timeZone: "UTC" });
const LONG_DAY = new Intl.DateTimeFormat("en-GB", {
  weekday: "long",
  day: "numeric",
  month: "long",
  year: "numeric",
  timeZone: "UTC",
});
const MONTH = new Intl.DateTimeFormat("en-GB", { month: "short", timeZone: "UTC" });

const parse = (iso: string): Date => new Date(`${iso.slice(0, 10)}T00:00:00Z`);

export const day = (iso: string): string => DAY.format(parse(iso)).replace("Sept", "Sep");
export const shortDay = (iso: string): string => SHORT_DAY.format(parse(iso)).replace("Sept", "Sep");
/** A day with its year where that is not the year of the other. */
export const dayFrom = (iso: string, other: string): string =>
  iso.slice(0, 4) === other.slice(0, 4) ? shortDay(iso) : day(iso);
export const longDay = (iso: string): string => LONG_DAY.format(parse(iso));
export const monthName = (iso: string): string => MONTH.format(parse(iso)).replace("Sept", "Sep");
export const monthLetter = (iso: string): string => monthName(iso).slice(0, 1);

/** The time of a moment, with its day where that is not today. */
export function moment(iso: string): string {
  const at = new Date(iso);
  const time = at.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  const today = at.toDateString() === new Date().toDateString();
  if (today) return time;
  const year = at.getFullYear() === new Date().getFullYear() ? {} : { year: "numeric" as const };
  return `${at.toLocaleDateString("en-GB", { day: "numeric", month: "short", ...year })}, ${time}`;
}

/** Whole days from one day to another. */
export const daysBetween = (from: string, to: string): number =>
  Math.round((parse(to).getTime() - parse(from).getTime()) / 86_400_000);

export function addDays(iso: string, days: number): string {
  const moved = parse(iso);
  moved.setUTCDate(moved.getUTCDate() + days);
  return moved.toISOString().slice(0, 10);
}

export function figure(value: number, digits = 0): string {
  return value.toLocaleString("en-GB", { minimumFractionDigits: digits, maximumFractionDigits: digits });
}

/** A count in which something still open counts as a part of one: "10", "9.4". */
export const counted = (value: number): string => figure(value, value % 1 ? 1 : 0);

export const perHundred = (rate: number): string => figure(rate * 100, 1);

/** A share as a percentage; what is not nothing and not all never reads as 0 or 100. */
export function percent(share: number): string {
  if (share > 0 && share < 0.01) return "under 1%";
  if (share < 1 && share > 0.99) return "over 99%";
  return `${figure(share * 100)}%`;
}

export function money(value: number, currency: string): string {
  const digits = Number.isInteger(value) ? 0 : 2;
  return new Intl.NumberFormat("en-GB", {
    style: "currency",
    currency,
    minimumFractionDigits: digits,
    maximumFractionDigits: 2,
  }).format(value);
}

export function age(days: number): string {
  if (days < 61) return `${days} days`;
  return days < 730 ? `${Math.round(days / 30.44)} months` : `${figure(days / 365.25, 1)} years`;
}

/** An age that may be less by a span of days. */
export function ageWithin(days: number, span: number): string {
  return span > 0 ? `between ${age(Math.max(days - span, 0))} and ${age(days)}` : age(days);
}

export const plural = (count: number, one: string, many = `${one}s`): string =>
  `${figure(count)} ${count === 1 ? one : many}`;

/** Words with their first letter in capitals, as a sentence begins. */
export const capital = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);
