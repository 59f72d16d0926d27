import { percent, plural, shortDay } from "@/lib/format";
import type { PartLine } from "./outlook.queries";

/** What a shelf asks of somebody and what it risks, in the words of stores, said the same everywhere. */

type ToDo = NonNullable<PartLine["todo"]>;
type Risk = NonNullable<PartLine["risk"]>;

export const TODO_COLOURS: Record<ToDo, string> = {
  order: "text-short",
  load: "text-thin",
  likely: "text-thin",
  nothing: "text-soft",
};

export const RISK_COLOURS: Record<Risk, string> = { waiting: "text-short", thin: "text-thin", fine: "text-covered" };

export function todoWords(line: PartLine): string {
  if (line.todo === "order") return `order ${line.quantity} now`;
  if (line.todo === "likely") return "likely next review";
  if (line.todo === "load") return `load ${codes(line.sites.filter((site) => site.load > 0))}`;
  return "nothing";
}

export function riskWords(line: PartLine): string {
  if (line.risk === "waiting") {
    const until = line.help_on === null ? "" : `, until ${shortDay(line.help_on)}`;
    return `waiting ${line.waiting || line.sites.filter((site) => site.free < 0).length}${until}`;
  }
  if (!line.stocked) return "bought when needed";
  if (line.risk === "fine") return "fine";
  const thin = line.sites.filter((site) => site.risk !== "fine");
  const own = line.chance_of_waiting ?? 0;
  if (own > (line.chance_in_time ?? 1)) return `thin, ${percent(own)}`;
  return thin.length === 0 ? "thin, nothing here" : `thin ${codes(thin)}`;
}

const codes = (sites: PartLine["sites"]): string =>
  sites.length > 2 ? plural(sites.length, "site") : sites.map((site) => site.code).join(", ");

/** "order when 2 are left, counting what is coming; 3 at a time, at most 5" */
export function policyWords(line: PartLine): string {
  if (line.order_at === null) return "";
  if (!line.stocked) return "Bought when needed: an order leaves once somebody waits.";
  return `Order when ${line.order_at} ${line.order_at === 1 ? "is" : "are"} left, counting what is coming; ${line.lot} at a time, at most ${line.most}.`;
}

/** "95 of 100" */
export const ofHundred = (share: number): string => {
  const hundred = share * 100;
  return `${hundred > 99 && hundred < 100 ? hundred.toFixed(1) : Math.round(hundred)} of 100`;
};
