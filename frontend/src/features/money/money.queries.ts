import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";
import { useWriting } from "@/shared/useWriting";

export type Money = Schemas["MoneyView"];
export type PartMoney = Schemas["PartMoney"];

/** The curve, and what a sum means; as much as the plan ties up where none is named. */
export function useMoney(budget: number | null) {
  return useQuery({
    queryKey: ["money", budget],
    queryFn: async ({ signal }) =>
      body(await api.GET("/api/v1/money", { params: { query: budget === null ? {} : { budget } }, signal })),
    placeholderData: keepPreviousData,
  });
}

export const useTakeMoney = () =>
  useWriting(async (budget: number) => body(await api.POST("/api/v1/money/aims", { body: { budget } })));

export const useGiveBack = () =>
  useWriting(async () => body(await api.POST("/api/v1/money/aims/back", { body: { confirm: true } })));
