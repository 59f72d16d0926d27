import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type Change = Schemas["ScenarioIn"]["changes"][number];
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

/** Every model by name, for the lists to choose from. */
export function useModelRows() {
  const found = useQuery({
    queryKey: ["models", ""],
    queryFn: async () => body(await api.GET("/api/v1/models", { params: { query: {} } })),
  });
  return found.data?.models ?? [];
}
