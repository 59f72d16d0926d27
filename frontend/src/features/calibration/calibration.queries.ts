import { useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type Calibration = Schemas["CalibrationView"];
export type Marks = Schemas["MarksView"];

/** The backtest. While quarters are missing it is asked for again, unless it was stopped: each answer brings some more. */
export function useCalibration(stopped = false) {
  return useQuery({
    queryKey: ["calibration"],
    queryFn: async () => body(await api.GET("/api/v1/calibration")),
    refetchInterval: (query) =>
      !stopped && query.state.data && query.state.data.done < query.state.data.of ? 300 : false,
  });
}

/** The backtest as far as others had it worked out; looked for again now and then while quarters are missing. */
export function useTrust() {
  return useQuery({
    queryKey: ["calibration", "told"],
    queryFn: async () => body(await api.GET("/api/v1/calibration", { params: { query: { work: false } } })),
    refetchInterval: (query) => (query.state.data && query.state.data.done < query.state.data.of ? 15_000 : false),
  });
}

/** How trustworthy the forecasts have been, in one line; null while nothing can be said. */
export function trust(found: Calibration | undefined): string | null {
  const all = found?.marks.find((marks) => marks.name === "all");
  if (!found || !all) return null;
  const share = Math.round(all.covered_most * 100);
  return `${share}% of the counts of the past ${found.done} quarters fell within their 90% interval`;
}
