import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type Outlook = Schemas["OutlookView"];
export type PartLine = Schemas["PartLine"];
export type Plate = Schemas["PlateView"];
export type OpenLine = Schemas["OpenLineView"];

const siteQuery = (site: string | null) => (site ? { site } : {});

export function useOutlook(site: string | null) {
  return useQuery({
    queryKey: ["outlook", site],
    queryFn: async ({ signal }) =>
      body(await api.GET("/api/v1/outlook", { params: { query: siteQuery(site) }, signal })),
    placeholderData: keepPreviousData,
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
      ]),
  });
}

export const useOrder = () =>
  useOutlookMutation(async (order: Schemas["OrderIn"]) => body(await api.POST("/api/v1/orders", { body: order })));

export const useReceive = () =>
  useOutlookMutation(async ({ line_id, ...receipt }: Schemas["ReceiptIn"] & { line_id: number }) =>
    body(await api.POST("/api/v1/order-lines/{line_id}/receipts", { params: { path: { line_id } }, body: receipt })),
  );

export const useCancelLine = () =>
  useOutlookMutation(async ({ line_id, ...cancelled }: Schemas["CancelIn"] & { line_id: number }) =>
    body(
      await api.POST("/api/v1/order-lines/{line_id}/cancellations", { params: { path: { line_id } }, body: cancelled }),
    ),
  );

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

/** The backtest as far as others had it worked out; looked for again now and then while quarters are missing. */
export function useTrust() {
  return useQuery({
    queryKey: ["calibration", "told"],
    queryFn: async () => body(await api.GET("/api/v1/calibration", { params: { query: { work: false } } })),
    refetchInterval: (query) => (query.state.data && query.state.data.done < query.state.data.of ? 15_000 : false),
  });
}

export function useKeepReading() {
  return useOutlookMutation(async (reading: Schemas["ReadingIn"]) =>
    body(await api.POST("/api/v1/outlook/readings", { body: reading })),
  );
}
