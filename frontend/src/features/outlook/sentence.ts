import { day, plural } from "@/lib/format";
import type { Outlook } from "./outlook.queries";

/** The opening sentence, in three pieces so that figures can be set in bold. */
export function sentence(outlook: Outlook): { failing: string; until: string; short: string; order: string } {
  const count = Math.round(outlook.failing_soon);
  const due = outlook.first_order_on;
  return {
    failing: plural(count, "part"),
    until: `${count === 1 ? "is" : "are"} expected to fail by ${day(outlook.soon_until)}.`,
    short:
      outlook.short === 0
        ? "No shelf runs short"
        : `${plural(outlook.short, "shelf", "shelves")} run${outlook.short === 1 ? "s" : ""} short`,
    order: due === null ? "no order is due within a year." : due <= outlook.as_of ? "today" : day(due),
  };
}
