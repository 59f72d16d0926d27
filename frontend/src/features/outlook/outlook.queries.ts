import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { keyOfAnswer } from "@/api/answers";
import { api, body, type Schemas } from "@/api/client";
import { useWriting } from "@/shared/useWriting";

export type Outlook = Schemas["OutlookView"];
export type PartLine = Schemas["PartLine"];
export type Plate = Schemas["PlateView"];
export type OpenLine = Schemas["OpenLineView"];

/** What others write shows: the server is asked now and then, and answers in a few bytes while nothing is new. */
const LOOK_MS = 15_000;

const siteQuery = (site: string | null) => (site ? { site } : {});

export function useOutlook(site: string | null) {
  return useQuery({
    queryKey: ["outlook", site],
    queryFn: async ({ signal }) =>
      body(await api.GET("/api/v1/outlook", { params: { query: siteQuery(site) }, signal })),
    placeholderData: keepPreviousData,
    refetchInterval: LOOK_MS,
  });
}

export function usePlate(number: string | undefined, site: string | null) {
  return useQuery({
    queryKey: ["plate", number, site],
    queryFn: async ({ signal }) =>
      body(
        await api.GET("/api/v1/outlook/parts/{number}", {
          params: { path: { number: number ?? "" }, query: siteQuery(site) },
          signal,
        }),
      ),
    enabled: Boolean(number),
    refetchInterval: LOOK_MS,
  });
}

/** Other parts than the four kinds. */
export function useOthers(enabled: boolean) {
  return useQuery({
    queryKey: ["outlook", "others"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/outlook/others", { signal })),
    enabled,
  });
}

export type Wear = Schemas["WearView"];

export function usePartWear(number: string, site: string | null, enabled: boolean) {
  return useQuery({
    queryKey: ["wear", number, site],
    queryFn: async () =>
      body(
        await api.GET("/api/v1/outlook/parts/{number}/wear", {
          params: { path: { number }, query: siteQuery(site) },
        }),
      ),
    enabled,
  });
}

export function useEntries(number: string, stream: string | null) {
  return useQuery({
    queryKey: ["entries", number, stream],
    queryFn: async () =>
      body(
        await api.GET("/api/v1/outlook/parts/{number}/entries", {
          params: { path: { number }, query: { stream: stream ?? "" } },
        }),
      ).entries,
    enabled: stream !== null,
  });
}

/** Whatever changes a shelf or a setting changes the outlook: all of it is read again. */
function useOutlookMutation<In, Out>(mutationFn: (input: In) => Promise<Out>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn,
    onSuccess: () =>
      Promise.all([
        client.invalidateQueries({ queryKey: ["outlook"] }),
        client.invalidateQueries({ queryKey: ["plate"] }),
        client.invalidateQueries({ queryKey: ["entries"] }),
        client.invalidateQueries({ queryKey: ["rates"] }),
        client.invalidateQueries({ queryKey: ["changes"] }),
        client.invalidateQueries({ queryKey: ["wear"] }),
        client.invalidateQueries({ queryKey: ["rehearsal"] }),
      ]),
  });
}

export const useOrder = () =>
  useOutlookMutation(async (order: Schemas["OrderIn"]) => {
    const plate = `/api/v1/outlook/parts/${encodeURIComponent(order.part_number)}`;
    return body(await api.POST("/api/v1/orders", { body: { ...order, rests_on: keyOfAnswer(plate) } }));
  });

export const useDraftOrders = () =>
  useWriting(async (json: Schemas["DraftsIn"]) => body(await api.POST("/api/v1/drafts", { body: json })));

/** What an order rested on, beside today. */
export function useBasis(order: string | null) {
  return useQuery({
    queryKey: ["basis", order],
    queryFn: async () =>
      body(await api.GET("/api/v1/orders/{order_number}/basis", { params: { path: { order_number: order ?? "" } } })),
    enabled: order !== null,
  });
}

export const useChangeSetting = () =>
  useOutlookMutation(async (setting: Schemas["SettingIn"]) =>
    body(await api.POST("/api/v1/settings", { body: setting })),
  );

export function useChanges(kind: string, site: string | null) {
  return useQuery({
    queryKey: ["changes", kind, site],
    queryFn: async () =>
      body(await api.GET("/api/v1/outlook/changes", { params: { query: { kind, ...siteQuery(site) } } })),
  });
}

/** The backtest, for one sentence, where it is known. */
export function useTrust() {
  return useQuery({
    queryKey: ["calibration", "told"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/calibration/told", { signal })).found,
    staleTime: 60_000,
  });
}

/** The plan's rehearsal, for one sentence, where it is known. */
export function useRehearsed() {
  return useQuery({
    queryKey: ["rehearsal", "told"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/rehearsal/told", { signal })),
    staleTime: 60_000,
  });
}

export function useKeepReading() {
  return useOutlookMutation(async (reading: Schemas["ReadingIn"]) =>
    body(await api.POST("/api/v1/outlook/readings", { body: reading })),
  );
}
