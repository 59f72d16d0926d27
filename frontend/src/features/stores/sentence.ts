import { plural } from "@/lib/format";
import type { Tally } from "./stores.queries";

/** From silence no all-clear: where no level can be said, nothing is at its level. */
function nothingBelow(tally: Tally): string {
  const said = tally.rows.some((row) => row.cells.some((cell) => cell.level !== null));
  if (!said) return "What should lie where cannot be said yet";
  if (tally.unsaid > 0)
    return `No shelf is below its level, of the parts it can be said of; of ${tally.unsaid} it cannot`;
  return "No shelf is below its level";
}

/** What the stores say in one sentence. */
export function sentence(tally: Tally): { lead: string; rest: string } {
  const short =
    tally.below === 0
      ? nothingBelow(tally)
      : `${plural(tally.below, "shelf", "shelves")} below ${tally.below === 1 ? "its" : "their"} level`;
  const waits =
    tally.waiting === 0 ? "nobody waits for a part" : `${plural(tally.waiting, "part is", "parts are")} waited for`;
  return { lead: short, rest: waits };
}
