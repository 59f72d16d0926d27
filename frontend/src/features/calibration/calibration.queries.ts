import { useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type Calibration = Schemas["CalibrationView"];
export type Marks = Schemas["MarksView"];

/** The backtest; the first one takes a while, and says how far it is. */
export function useCalibration() {
  return useQuery({
    queryKey: ["calibration"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/calibration", { signal })),
  });
}
