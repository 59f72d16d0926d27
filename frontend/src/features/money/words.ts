import { money as amount, figure } from "@/lib/format";
import type { Money } from "./money.queries";

/** Rules beside the curve. */
export const RULES: Record<string, string> = {
  plan: "the plan",
  today: "today's shelves",
  "one-left": "order when one is left",
  "fixed-share": "a fixed share of the fleet",
};

/** "At €13,400 on shelves and boats machines wait 92 days a year for a part. Today's shelves tie up €15,000 and lose 541." */
export function sentence(found: Money, sum: number, waiting: number, currency: string): string {
  const today = found.beside.find((rule) => rule.name === "today");
  const said = `At ${amount(Math.round(sum), currency)} on shelves and boats machines wait ${figure(waiting)} days a year for a part.`;
  if (!today) return said;
  const wrong = today.money >= sum && today.waiting > 1.2 * waiting ? ": they stand in the wrong places" : "";
  return `${said} Today's shelves tie up ${amount(Math.round(today.money), currency)} and lose ${figure(today.waiting)}${wrong}.`;
}
