import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type KindRates = Schemas["KindRatesView"];

export function useKindRates(kind: string) {
  return useQuery({
    queryKey: ["rates", "kind", kind],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/rates/{kind}", { params: { path: { kind } }, signal })),
    placeholderData: keepPreviousData,
  });
}

export function useDataChecks() {
  return useQuery({
    queryKey: ["rates", "data-check"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/data-check", { signal })),
  });
}

export type PoolAsked = { part: string; model: string; duty: string; air: string };

export function usePoolLives(pool: PoolAsked) {
  return useQuery({
    queryKey: ["rates", "lives", pool],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/pool-lives", { params: { query: pool }, signal })),
  });
}
