import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type Change = Schemas["ScenarioIn"]["changes"][number];
export type PlannedIn = Schemas["FleetPlanIn"]["changes"][number];
export type Look = Schemas["LookAtScenario"];
export type Pair = Schemas["PairView"];

/** What would follow; a look that is left is given up. */
export function useLook(changes: Change[], site: string | null) {
  return useQuery({
    queryKey: ["scenario", "look", changes, site],
    queryFn: async ({ signal }) => body(await api.POST("/api/v1/scenarios/look", { body: { changes, site }, signal })),
    enabled: changes.length > 0,
  });
}

/** A scenario played forward, the plan itself where nothing is changed. */
export function useRehearsed(changes: Change[], enabled: boolean) {
  return useQuery({
    queryKey: ["scenario", "rehearsed", changes],
    queryFn: async ({ signal }) =>
      body(await api.POST("/api/v1/rehearsal/scenario", { body: { changes, site: null, rule: "plan" }, signal })),
    enabled,
  });
}

export function usePairOfPlans(number: string | undefined, changes: Change[], site: string | null) {
  return useQuery({
    queryKey: ["scenario", "part", number, changes, site],
    queryFn: async ({ signal }) =>
      body(
        await api.POST("/api/v1/scenarios/look/{number}", {
          params: { path: { number: number ?? "" } },
          body: { changes, site },
          signal,
        }),
      ),
    enabled: Boolean(number) && changes.length > 0,
  });
}

export function useKept() {
  return useQuery({
    queryKey: ["scenario", "kept"],
    queryFn: async () => body(await api.GET("/api/v1/scenarios")).scenarios,
  });
}

function useKeeping<In, Out>(mutationFn: (input: In) => Promise<Out>) {
  const client = useQueryClient();
  return useMutation({ mutationFn, onSuccess: () => client.invalidateQueries({ queryKey: ["scenario", "kept"] }) });
}

export const useKeep = () =>
  useKeeping(async (scenario: Schemas["KeepIn"]) => body(await api.POST("/api/v1/scenarios", { body: scenario })));

export const useGiveUp = () =>
  useKeeping(async (id: number) =>
    body(await api.DELETE("/api/v1/scenarios/{scenario_id}", { params: { path: { scenario_id: id } } })),
  );

/** Whether a change can be planned: it has a day and is done to machines. */
export const isPlanned = (change: Change): change is PlannedIn =>
  change.do === "retire" || change.do === "buy" || change.do === "swap";

/** What is decided for the fleet, the next first. */
export function usePlanOfFleet() {
  return useQuery({
    queryKey: ["plans"],
    queryFn: async () => body(await api.GET("/api/v1/plans")).plans,
  });
}

/** The plan of the fleet bears on every figure ahead, so everything is asked for again. */
function useDeciding<In, Out>(mutationFn: (input: In) => Promise<Out>) {
  const client = useQueryClient();
  return useMutation({ mutationFn, onSuccess: () => client.invalidateQueries() });
}

export const useMakePlan = () =>
  useDeciding(async (plan: Schemas["FleetPlanIn"]) => body(await api.POST("/api/v1/plans", { body: plan })));

export const useWithdraw = () =>
  useDeciding(async (id: number) =>
    body(await api.DELETE("/api/v1/plans/{plan_id}", { params: { path: { plan_id: id } } })),
  );

/** The positions of a model, to choose one of. */
export function usePositions(model: number | null) {
  return useQuery({
    queryKey: ["model", model],
    queryFn: async () =>
      body(await api.GET("/api/v1/models/{model_id}", { params: { path: { model_id: model ?? 0 } } })),
    enabled: model !== null,
  });
}

/** The parts that fit a position. */
export function useFitting(model: number | null, position: string) {
  return useQuery({
    queryKey: ["fits", model, position],
    queryFn: async () =>
      body(
        await api.GET("/api/v1/models/{model_id}/positions/{position}/fits", {
          params: { path: { model_id: model ?? 0, position } },
        }),
      ),
    enabled: model !== null && position !== "",
  });
}

/** Every model by name, for the lists to choose from. */
export function useModels() {
  return useQuery({
    queryKey: ["models", ""],
    queryFn: async () => body(await api.GET("/api/v1/models", { params: { query: {} } })),
    select: (found) => found.models,
  });
}

export const useModelRows = () => useModels().data ?? [];
