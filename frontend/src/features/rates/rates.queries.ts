import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";
import { useWriting } from "@/shared/useWriting";

export type KindRates = Schemas["KindRatesView"];

export function useKindRates(kind: string) {
  return useQuery({
    queryKey: ["rates", "kind", kind],
    queryFn: async ({ signal }) =>
      body(await api.GET("/api/v1/rates/{kind}", { params: { path: { kind } }, signal })).rates,
    placeholderData: keepPreviousData,
  });
}

export function useDataChecks() {
  return useQuery({
    queryKey: ["rates", "data-check"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/data-check", { signal })),
  });
}

export type PoolAsked = { part: string; model: string; duty: string; air: string; lot?: string | null };

export function usePoolLives(pool: PoolAsked) {
  return useQuery({
    queryKey: ["rates", "lives", pool],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/pool-lives", { params: { query: pool }, signal })),
  });
}

export function useStart(kind: string) {
  return useQuery({
    queryKey: ["rates", "start", kind],
    queryFn: async ({ signal }) =>
      body(await api.GET("/api/v1/rates/{kind}/start", { params: { path: { kind } }, signal })),
  });
}

export const useStateStart = (kind: string) =>
  useWriting(async (json: Schemas["StartIn"]) =>
    body(await api.POST("/api/v1/rates/{kind}/start", { params: { path: { kind } }, body: json })),
  );
