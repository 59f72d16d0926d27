import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";
import { useWriting } from "@/shared/useWriting";

export type OrderList = Schemas["OrdersView"];
export type OrderSummary = Schemas["OrderSummaryView"];
export type Order = Schemas["OrderDocView"];
export type OrderLine = Schemas["OrderLineView"];
export type Happened = Schemas["HappenedView"];
export type Draft = Schemas["DraftView"];

const LOOK_MS = 15_000;

export function useOrders() {
  return useQuery({
    queryKey: ["orders"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/orders", { signal })),
    placeholderData: keepPreviousData,
    refetchInterval: LOOK_MS,
  });
}

export function useOrderPage(number: string) {
  return useQuery({
    queryKey: ["order", number],
    queryFn: async ({ signal }) =>
      body(await api.GET("/api/v1/orders/{order_number}", { params: { path: { order_number: number } }, signal })),
  });
}

export function useDraft(id: number) {
  return useQuery({
    queryKey: ["draft", id],
    queryFn: async ({ signal }) =>
      body(await api.GET("/api/v1/drafts/{draft_id}", { params: { path: { draft_id: id } }, signal })),
  });
}

export const useAnswers = (number: string) =>
  useWriting(async (json: Partial<Schemas["AnswersIn"]>) =>
    body(
      await api.POST("/api/v1/orders/{order_number}/answers", {
        params: { path: { order_number: number } },
        body: { answers: [], file: null, ...json },
      }),
    ),
  );

export const useSimulatedAnswer = (number: string) =>
  useWriting(async (kind: Schemas["SupplierAsked"]["kind"]) =>
    body(
      await api.POST("/api/v1/orders/{order_number}/simulation", {
        params: { path: { order_number: number } },
        body: { kind },
      }),
    ),
  );

export const useSettle = () =>
  useWriting(async ({ id, ...json }: Schemas["SettleAnswerIn"] & { id: number }) =>
    body(
      await api.POST("/api/v1/order-answers/{answer_id}/settlement", {
        params: { path: { answer_id: id } },
        body: json,
      }),
    ),
  );

export const useUndoReceipt = () =>
  useWriting(async ({ id, reason }: { id: number; reason: string }) =>
    body(
      await api.POST("/api/v1/receipts/{receipt_id}/undoing", {
        params: { path: { receipt_id: id } },
        body: { reason },
      }),
    ),
  );

export const useMakeDraft = () =>
  useWriting(async (json: Schemas["DraftsIn"]) => body(await api.POST("/api/v1/drafts", { body: json })));

export const useChangeDraft = (id: number) =>
  useWriting(async (json: Schemas["DraftChange"]) =>
    body(await api.POST("/api/v1/drafts/{draft_id}/lines", { params: { path: { draft_id: id } }, body: json })),
  );

export const useDraftAct = (id: number) =>
  useWriting(async (json: Schemas["DraftActIn"]) =>
    body(await api.POST("/api/v1/drafts/{draft_id}/acts", { params: { path: { draft_id: id } }, body: json })),
  );

export function useStoresSettings() {
  return useQuery({
    queryKey: ["stores-settings"],
    queryFn: async () => body(await api.GET("/api/v1/stores/settings")),
  });
}

export const useMail = (number: string) =>
  useWriting(async (json: Schemas["MailIn"]) =>
    body(
      await api.POST("/api/v1/orders/{order_number}/mailings", {
        params: { path: { order_number: number } },
        body: json,
      }),
    ),
  );
