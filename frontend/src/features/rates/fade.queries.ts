import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type FadeLine = Schemas["FadeLine"];
export type PartFade = Schemas["WearView"];

export function useFade() {
  return useQuery({
    queryKey: ["fade"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/fade", { signal })),
  });
}

export function usePartFade(number: string) {
  return useQuery({
    queryKey: ["wear", number, null],
    queryFn: async ({ signal }) =>
      body(await api.GET("/api/v1/outlook/parts/{number}/wear", { params: { path: { number }, query: {} }, signal })),
    placeholderData: keepPreviousData,
  });
}
