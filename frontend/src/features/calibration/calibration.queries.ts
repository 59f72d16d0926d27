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
