import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, body, type OldLogMeaning, type Schemas, sendOldLog } from "@/api/client";

export type LogEntry = Schemas["LogEntryView"];
export type AssetCard = Schemas["AssetCard"];
export type Position = Schemas["PositionView"];
export type IncidentIn = Schemas["IncidentIn"];
export type CorrectionIn = Schemas["CorrectionIn"];

export interface LogFilter {
  finding: string;
  kind: string;
  q: string;
  site: string | null;
}

const PAGE = 80;

function queryOf(filter: LogFilter, after: string | null) {
  const given = {
    finding: filter.finding || undefined,
    kind: filter.kind || undefined,
    q: filter.q || undefined,
    site: filter.site ?? undefined,
    after: after ?? undefined,
  };
  return { ...Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined)), limit: PAGE };
}

/** The log in pages by key; the first page also counts. */
export function useLog(filter: LogFilter) {
  return useInfiniteQuery({
    queryKey: ["log", filter],
    initialPageParam: null as string | null,
    queryFn: async ({ pageParam }) =>
      body(await api.GET("/api/v1/incidents", { params: { query: queryOf(filter, pageParam) } })),
    getNextPageParam: (page) => page.next_key,
  });
}

export function useIncident(id: number | null) {
  return useQuery({
    queryKey: ["incident", id],
    queryFn: async () =>
      body(await api.GET("/api/v1/incidents/{incident_id}", { params: { path: { incident_id: id ?? 0 } } })),
    enabled: id !== null,
  });
}

export function useAsset(tag: string) {
  return useQuery({
    queryKey: ["asset", tag],
    queryFn: async () => body(await api.GET("/api/v1/assets/{tag}", { params: { path: { tag } } })),
    enabled: tag.length > 0,
  });
}

/** An incident changes the log, the machine, the shelf and so the outlook: all are read again. */
function useLedgerMutation<In, Out>(mutationFn: (input: In) => Promise<Out>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn,
    onSuccess: () =>
      Promise.all(
        ["log", "incident", "asset", "outlook", "plate", "entries"].map((key) =>
          client.invalidateQueries({ queryKey: [key] }),
        ),
      ),
  });
}

export const useRecord = () =>
  useLedgerMutation(async (incident: IncidentIn) => body(await api.POST("/api/v1/incidents", { body: incident })));

export const useCorrect = () =>
  useLedgerMutation(async ({ incident_id, ...correction }: CorrectionIn & { incident_id: number }) =>
    body(
      await api.POST("/api/v1/incidents/{incident_id}/revisions", {
        params: { path: { incident_id } },
        body: correction,
      }),
    ),
  );

export function useShares() {
  return useQuery({ queryKey: ["log", "shares"], queryFn: async () => body(await api.GET("/api/v1/log/shares")) });
}

export function useRepeats() {
  return useQuery({ queryKey: ["log", "repeats"], queryFn: async () => body(await api.GET("/api/v1/log/repeats")) });
}

export type OldLog = Schemas["OldLogView"];
export type Meaning = OldLogMeaning;

export const useOldLog = () =>
  useLedgerMutation(async ({ file, meaning }: { file: File; meaning: Meaning }) => sendOldLog(file, meaning));

/** The address of the log as a file, with the filter that is set. */
export function exportAddress(kind: "csv" | "json" | "xlsx", filter: LogFilter): string {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(filter)) if (value) query.set(name, value);
  const text = query.toString();
  return `/api/v1/log/export.${kind}${text ? `?${text}` : ""}`;
}
