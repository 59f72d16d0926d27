import { day, plural } from "@/lib/format";
import type { Outlook } from "./outlook.queries";

export interface Sentence {
  /** What is expected to fail, and by when; null where nothing can be said. */
  failing: { count: string; until: string } | null;
  short: string;
  order: string;
  /** Whether there is an order with a day. */
  due: boolean;
}

/** The opening sentence, in pieces so that figures can be set in bold. Where something cannot be said, it gives no all-clear. */
export function sentence(outlook: Outlook): Sentence {
  const due = outlook.first_order_on;
  return {
    failing: failing(outlook),
    short: shelves(outlook),
    order: due === null ? orderless(outlook) : due <= outlook.as_of ? "today" : day(due),
    due: due !== null,
  };
}

function failing({ failing_soon: expected, soon_until }: Outlook): Sentence["failing"] {
  if (expected === null) return null;
  const count = Math.round(expected);
  if (count === 0) return { count: "Fewer than one part", until: `is expected to fail by ${day(soon_until)}.` };
  return {
    count: plural(count, "part"),
    until: `${count === 1 ? "is" : "are"} expected to fail by ${day(soon_until)}.`,
  };
}

function shelves({ short, short_at_sites: sites, unsaid }: Outlook): string {
  const depot = short === 0 ? "" : `${plural(short, "shelf", "shelves")} run${short === 1 ? "s" : ""} short`;
  const outposts = sites === 0 ? "" : `${plural(sites, "shelf", "shelves")} at outposts may run out before the boat`;
  if (depot && outposts) return `${depot}, ${outposts}`;
  if (depot || outposts) return depot || outposts;
  return unsaid.length > 0 ? "No shelf that can be forecast runs short" : "No shelf runs short";
}

const orderless = ({ unsaid }: Outlook): string =>
  unsaid.length > 0 ? "of those, no order is due within a year." : "no order is due within a year.";
