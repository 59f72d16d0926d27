import type { Schemas } from "@/api/client";
import { counted, figure } from "@/lib/format";

/** "10 failed where 1.3 were expected": a finding that is still open counts as a part of a failure. */
export function seenAgainst({ observed, expected }: Pick<Schemas["AlarmView"], "observed" | "expected">): string {
  return `${counted(observed)} failed where ${figure(expected, 1)} ${expected > 0.95 && expected < 1.05 ? "was" : "were"} expected`;
}
