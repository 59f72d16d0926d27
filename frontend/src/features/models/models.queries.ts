import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type ModelRow = Schemas["ModelRow"];
export type ModelPageData = Schemas["ModelPageView"];
export type PositionDetail = Schemas["PositionDetail"];
export type StepView = Schemas["StepView"];
export type RouteData = Schemas["RouteView"];
export type NamedFacts = Schemas["NamedFacts"];

export interface RouteAsk {
  to: string[];
  itself: string[];
  include: string[];
  options: string[];
  packOut: boolean;
}

const routeQuery = (ask: RouteAsk) => ({
  to: ask.to.join(","),
  itself: ask.itself.join(","),
  include: ask.include.join(","),
  options: ask.options.join(","),
  pack_out: ask.packOut,
  paper: "A4" as const,
});

/** The address of a printed sheet of a route. */
export function sheetAddress(model: number, sheet: "route" | "mat", ask: RouteAsk, paper = "A4"): string {
  const query = new URLSearchParams({
    to: ask.to.join(","),
    itself: ask.itself.join(","),
    include: ask.include.join(","),
    options: ask.options.join(","),
    pack_out: String(ask.packOut),
    paper,
  });
  return `/api/v1/models/${model}/${sheet}.pdf?${query}`;
}

export function useModels(words: string) {
  return useQuery({
    queryKey: ["models", words],
    queryFn: async () => body(await api.GET("/api/v1/models", { params: { query: words ? { q: words } : {} } })),
    placeholderData: keepPreviousData,
  });
}

export function useModelPage(id: number | null) {
  return useQuery({
    queryKey: ["model", id],
    queryFn: async () => body(await api.GET("/api/v1/models/{model_id}", { params: { path: { model_id: id ?? 0 } } })),
    enabled: id !== null,
  });
}

export type Rates = Map<string, Schemas["PartRateView"]>;

/** Failure rates by part number; they come after the page, because they need the whole fleet's log. */
export function useRates(id: number): Rates | null {
  const rates = useQuery({
    queryKey: ["rates", id],
    queryFn: async () =>
      body(await api.GET("/api/v1/models/{model_id}/rates", { params: { path: { model_id: id } } })).parts,
  });
  return rates.data ? new Map(rates.data.map((part) => [part.part_number, part])) : null;
}

export function useRoute(id: number, ask: RouteAsk) {
  return useQuery({
    queryKey: ["route", id, ask],
    queryFn: async () =>
      body(
        await api.GET("/api/v1/models/{model_id}/route", {
          params: { path: { model_id: id }, query: routeQuery(ask) },
        }),
      ),
    enabled: ask.to.length > 0,
    placeholderData: keepPreviousData,
  });
}

export function useFits(id: number, position: string) {
  return useQuery({
    queryKey: ["fits", id, position],
    queryFn: async () =>
      body(
        await api.GET("/api/v1/models/{model_id}/positions/{position}/fits", {
          params: { path: { model_id: id, position } },
        }),
      ),
  });
}

export function useMemory(id: number, ask: Schemas["MemoryIn"]) {
  return useQuery({
    queryKey: ["memory", id, ask],
    queryFn: async () =>
      body(await api.POST("/api/v1/models/{model_id}/memory", { params: { path: { model_id: id } }, body: ask })),
    placeholderData: keepPreviousData,
  });
}

export function useDrive(id: number, ask: Schemas["DriveIn"]) {
  return useQuery({
    queryKey: ["drive", id, ask],
    queryFn: async () =>
      body(await api.POST("/api/v1/models/{model_id}/drive", { params: { path: { model_id: id } }, body: ask })),
    enabled: ask.part_number !== "" && ask.source_gb > 0,
    placeholderData: keepPreviousData,
    retry: false,
  });
}

export function useComparison(ids: number[]) {
  return useQuery({
    queryKey: ["compare", ids],
    queryFn: async () =>
      body(await api.GET("/api/v1/models/compare", { params: { query: { models: ids.join(",") } } })),
    enabled: ids.length > 1,
  });
}

export function useLineUp() {
  return useQuery({ queryKey: ["line-up"], queryFn: async () => body(await api.GET("/api/v1/line-up")) });
}

export function useIdentify(models: string[], answered: Record<string, string>) {
  return useQuery({
    queryKey: ["identify", models, answered],
    queryFn: async () => body(await api.POST("/api/v1/models/identify", { body: { models, answered } })),
    placeholderData: keepPreviousData,
  });
}

export function useLook(id: number, operation: string, looked: string[]) {
  return useQuery({
    queryKey: ["lift", id, operation, looked],
    queryFn: async () =>
      body(
        await api.POST("/api/v1/models/{model_id}/lift", {
          params: { path: { model_id: id } },
          body: { operation, looked },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

export function useHistory(id: number) {
  return useQuery({
    queryKey: ["history", id],
    queryFn: async () =>
      body(await api.GET("/api/v1/models/{model_id}/history", { params: { path: { model_id: id } } })),
  });
}

export function useDocument(id: number | null, number: number | null = null) {
  return useQuery({
    queryKey: ["document", id, number],
    queryFn: async () =>
      body(
        await api.GET("/api/v1/models/{model_id}/document", {
          params: { path: { model_id: id ?? 0 }, query: number ? { number } : {} },
        }),
      ),
    enabled: id !== null,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** A changed page changes the index, its own view, and what was planned from it. */
function usePageMutation<In, Out>(mutationFn: (input: In) => Promise<Out>) {
  const client = useQueryClient();
  return useMutation({ mutationFn, onSuccess: () => client.invalidateQueries() });
}

export const useSavePage = () =>
  usePageMutation(async (page: Schemas["PageIn"]) => body(await api.POST("/api/v1/pages", { body: page })));

export const useRestore = () =>
  usePageMutation(async ({ id, number, latest }: { id: number; number: number; latest: number }) =>
    body(
      await api.POST("/api/v1/models/{model_id}/history/{number}/restore", {
        params: { path: { model_id: id, number } },
        body: { latest },
      }),
    ),
  );

export const usePageFile = () =>
  usePageMutation(async (file: Schemas["YamlIn"]) => body(await api.POST("/api/v1/pages/file", { body: file })));

export function useCheck(page: Record<string, unknown> | null) {
  return useQuery({
    queryKey: ["check", page],
    queryFn: async () => body(await api.POST("/api/v1/pages/check", { body: { page: page ?? {} } })),
    enabled: page !== null,
    placeholderData: keepPreviousData,
  });
}

export function useShorthand(line: string) {
  return useQuery({
    queryKey: ["shorthand", line],
    queryFn: async () => body(await api.POST("/api/v1/pages/shorthand", { body: { line } })),
    enabled: line.trim() !== "",
    placeholderData: keepPreviousData,
  });
}

export function useLabel(text: string, kind: string | null) {
  return useQuery({
    queryKey: ["label", text, kind],
    queryFn: async () => body(await api.POST("/api/v1/pages/label", { body: { text, kind } })),
    enabled: text.trim() !== "",
    placeholderData: keepPreviousData,
  });
}

/** Reads one typed line, of what stands on the screen when Enter is pressed and not a moment before. */
export const useTypedLine = () =>
  useMutation({
    mutationFn: async (typed: Schemas["TypedIn"]) => body(await api.POST("/api/v1/pages/line", { body: typed })),
  });

/** What the label of a whole machine says. */
export const useMachineLabel = (text: string, form: string) =>
  useQuery({
    queryKey: ["machine-label", text, form],
    queryFn: async () => body(await api.POST("/api/v1/pages/machine-label", { body: { text, form } })),
    enabled: text.trim() !== "",
  });

/** The role each of some strings on a part most likely has. */
export const useStringRoles = (texts: string[]) =>
  useQuery({
    queryKey: ["string-roles", texts],
    queryFn: async () => body(await api.POST("/api/v1/pages/strings", { body: { texts } })),
    enabled: texts.length > 0,
  });

export function useProposals() {
  return useMutation({
    mutationFn: async (notes: Schemas["NotesIn"]) => body(await api.POST("/api/v1/pages/proposals", { body: notes })),
  });
}
