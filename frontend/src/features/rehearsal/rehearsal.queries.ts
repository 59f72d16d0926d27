import { useQueries, useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";
import { useWriting } from "@/shared/useWriting";

export type Rehearsal = Schemas["RehearsalView"];
export type Played = Schemas["PlayedView"];

export function useRules() {
  return useQuery({
    queryKey: ["rehearsal", "rules"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/rehearsal/rules", { signal })).rules,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** The plan is played first; the others follow once it is there, or was stopped. */
export function useRehearsals(rules: string[]) {
  const plan = useQuery(asked("plan"));
  const others = useQueries({
    queries: rules.filter((rule) => rule !== "plan").map((rule) => ({ ...asked(rule), enabled: Boolean(plan.data) })),
  });
  const rows = rules.map((rule, place) => ({ rule, query: rule === "plan" ? plan : others[place - 1] }));
  return { plan, rows };
}

const asked = (rule: string) => ({
  queryKey: ["rehearsal", "rule", rule],
  queryFn: async ({ signal }: { signal: AbortSignal }) =>
    body(await api.GET("/api/v1/rehearsal", { params: { query: { rule } }, signal })),
});

/** The company's aim becomes another. */
export const useTakeOver = () =>
  useWriting(async ({ aim, number }: { aim: number; number: number }) =>
    body(
      await api.POST("/api/v1/settings", {
        body: { scope: "company", scope_key: "", key: "target", value: aim, expected_number: number },
      }),
    ),
  );
