import { day, plural } from "@/lib/format";
import type { Outlook } from "./outlook.queries";

export interface Sentence {
  /** What is to be done today, in pieces that are set in bold; null where nothing can be said. */
  todo: string[] | null;
  /** Who waits, or may. */
  risk: string;
  /** What is expected to fail, and by when; null where nothing can be said. */
  failing: string | null;
}

/** The word for what brings parts to sites where it is one for all of them; null where they differ. */
export function oneCarrier(sites: readonly { carrier: string | null }[]): string | null {
  const words = [...new Set(sites.map((site) => site.carrier).filter((word) => word !== null))];
  return words.length === 1 ? (words[0] ?? null) : words.length === 0 ? "boat" : null;
}

/** The opening sentence. Where something cannot be said, it gives no all-clear. */
export function sentence(outlook: Outlook, carrier: string | null = "boat"): Sentence {
  const said = outlook.failing_soon !== null;
  return {
    todo: said ? todo(outlook, carrier ?? "site") : null,
    risk: said ? risk(outlook) : "",
    failing: failing(outlook),
  };
}

function todo({ to_order: orders, boats, unsaid, next_order_on }: Outlook, carrier: string): string[] {
  const found = [];
  if (orders > 0) found.push(`${plural(orders, "order")} to place today`);
  if (boats > 0) found.push(`${plural(boats, carrier)} to load`);
  if (found.length > 0) return found;
  const next = next_order_on === null ? "" : `, the next order is likely on ${day(next_order_on)}`;
  return [`${unsaid.length > 0 ? "Of what can be forecast, nothing" : "Nothing"} to order or load today${next}`];
}

function risk({ waiting, thin, unsaid }: Outlook): string {
  const now = waiting === 0 ? "" : `${plural(waiting, "machine")} ${waiting === 1 ? "waits" : "wait"} for a part`;
  const may =
    thin === 0 ? "" : `${plural(thin, "part")} ${thin === 1 ? "is" : "are"} thin somewhere: somebody may wait`;
  if (now || may) return [now, may].filter(Boolean).join("; ");
  return unsaid.length > 0 ? "where a forecast can be made, nobody waits" : "nobody waits, and no shelf is thin";
}

function failing({ failing_soon: expected, soon_until }: Outlook): string | null {
  if (expected === null) return null;
  const count = Math.round(expected);
  if (count === 0) return `Fewer than one part is expected to fail by ${day(soon_until)}.`;
  return `${plural(count, "part")} ${count === 1 ? "is" : "are"} expected to fail by ${day(soon_until)}.`;
}
