import type { Schemas } from "@/api/client";

/** How trustworthy the forecasts have been, in one line; null while nothing can be said. */
export function trust(found: Schemas["CalibrationView"] | null | undefined): string | null {
  const all = found?.marks.find((marks) => marks.name === "all");
  if (!found || !all) return null;
  const share = Math.round(all.covered_most * 100);
  return `${share}% of the counts of the past ${found.quarters_tried} quarters fell within their 90% interval`;
}
