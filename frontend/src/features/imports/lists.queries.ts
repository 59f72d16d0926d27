import { useMutation, useQuery } from "@tanstack/react-query";
import { api, body, type ListSaid, type ListSettled, type Schemas, sendList } from "@/api/client";
import { useWriting } from "@/shared/useWriting";

export type Look = Schemas["ListLook"];
export type Said = ListSaid;
export type Settled = ListSettled;
export type Group = Schemas["ListGroup"];
export type Question = Schemas["ListQuestion"];

export function useLists() {
  return useQuery({
    queryKey: ["lists"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/lists", { signal })),
  });
}

export interface Given {
  file: File;
  said: Said;
}

/** What a list says beside the record; nothing is written by looking. */
export const useLook = () =>
  useMutation({ mutationFn: ({ file, said }: Given) => sendList<Look>("/api/v1/lists/look", file, said) });

export const useApply = () =>
  useWriting(({ file, said }: Given) => sendList<Schemas["ListApplied"]>("/api/v1/lists", file, said), {
    sites: true,
  });

export const useUndo = () =>
  useWriting(async (id: number) =>
    body(await api.POST("/api/v1/lists/{intake_id}/undoing", { params: { path: { intake_id: id } } })),
  );
