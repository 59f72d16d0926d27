import { useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type Alarms = Schemas["AlarmsView"];
export type ChartLine = Schemas["ChartLine"];

const LOOK_MS = 60_000;

/** Failures that run ahead of what was expected, over the whole company. */
export function useAlarms() {
  return useQuery({
    queryKey: ["alarms"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/alarms", { signal })),
    refetchInterval: LOOK_MS,
  });
}

export const alarmPath = (chart: string): string => `/rates/alarms?chart=${encodeURIComponent(chart)}`;
