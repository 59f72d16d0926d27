import type { Schemas } from "@/api/client";

/** "Played for two years, 96 of 100 found their part; 95 was the aim"; null while it was never played. */
export function playedWords(told: Schemas["RehearsalTold"] | undefined): string | null {
  if (!told?.fill || told.years === null) return null;
  const met = Math.round(told.fill.value * 100);
  const aim = told.aim === null ? "" : `; ${Number((told.aim * 100).toFixed(2))} was the aim`;
  return `played for ${told.years} years, ${met} of 100 found their part${aim}`;
}

/** How trustworthy the forecasts have been, in one line; null while nothing can be said. */
export function trust(found: Schemas["CalibrationView"] | null | undefined): string | null {
  const all = found?.marks.find((marks) => marks.name === "all");
  if (!found || !all) return null;
  const share = Math.round(all.covered_most * 100);
  return `${share}% of the counts of the past ${found.quarters_tried} quarters fell within their 90% interval`;
}
