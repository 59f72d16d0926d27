import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";
import { useWriting } from "@/shared/useWriting";

export type ChartPlate = Schemas["ChartPlate"];

export function useChart(chart: string | null) {
  return useQuery({
    queryKey: ["alarms", "chart", chart],
    queryFn: async ({ signal }) =>
      body(await api.GET("/api/v1/alarms/chart", { params: { query: { chart: chart ?? "" } }, signal })),
    enabled: chart !== null,
    placeholderData: keepPreviousData,
  });
}

/** What accepting an alarm would change in orders. */
export function useWouldChange(chart: string) {
  return useQuery({
    queryKey: ["alarms", "would", chart],
    queryFn: async ({ signal }) =>
      body(await api.GET("/api/v1/alarms/would", { params: { query: { chart } }, signal })),
  });
}

export function useAlarmSettings(enabled: boolean) {
  return useQuery({
    queryKey: ["alarms", "settings"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/alarms/settings", { signal })),
    enabled,
  });
}

export const useDecideAlarm = () =>
  useWriting(async (json: Schemas["DecideIn"]) => body(await api.POST("/api/v1/alarms/decisions", { body: json })));

export const useWithdrawDecision = () =>
  useWriting(async (decision: number) =>
    body(
      await api.POST("/api/v1/alarms/decisions/{decision_id}/withdraw", {
        params: { path: { decision_id: decision } },
      }),
    ),
  );
