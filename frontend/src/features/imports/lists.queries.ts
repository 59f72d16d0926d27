import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import {
  api,
  body,
  type ListSaid,
  type ListSettled,
  type Schemas,
  sendList,
  whenEnded,
  workOnList,
} from "@/api/client";
import { useWriting } from "@/shared/useWriting";

export type Look = Schemas["ListLook"];
export type Said = ListSaid;
export type Settled = ListSettled;
export type Group = Schemas["ListGroup"];
export type Question = Schemas["ListQuestion"];
export type Work = Schemas["ListWorkView"];

/** Groups of what is written. */
export const WRITTEN = ["new", "moved", "changed", "gone"] as const;
const LONG_BYTES = 400_000;
const WHILE_APPLIED_MS = 1000;

/** Lists that were applied, and those a worker applies: they are asked for until it is done, and then all else is read again. */
export function useLists() {
  const client = useQueryClient();
  const found = useQuery({
    queryKey: ["lists"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/lists", { signal })),
    refetchInterval: (query) => (query.state.data?.under_way.length ? WHILE_APPLIED_MS : false),
  });
  const applying = (found.data?.under_way.length ?? 0) > 0;
  const was = useRef(false);
  useEffect(() => {
    if (was.current && !applying)
      void client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== "lists" });
    was.current = applying;
  }, [applying, client]);
  return found;
}

export interface Given {
  file: File;
  said: Said;
}

/** What a list says beside the record; nothing is written by looking. A long one is looked at by a worker. */
export function useLook() {
  const [work, told] = useState<Work | null>(null);
  const look = useMutation({
    mutationFn: async ({ file, said }: Given): Promise<Look> => {
      if (file.size < LONG_BYTES) return sendList<Look>("/api/v1/lists/look", file, said);
      const found = await workOnList("look", file, said, told);
      if (!found.look) throw new Error("The list was not looked at");
      return found.look;
    },
  });
  return { ...look, work };
}

/** Write what a list says. What a worker applies is shown among the lists that were applied. */
export function useApply() {
  const client = useQueryClient();
  const shown = useRef(false);
  const told = (work: Work | null): void => {
    if (work && !shown.current) void client.invalidateQueries({ queryKey: ["lists"] });
    shown.current = work !== null;
  };
  return useWriting(
    async ({ file, said }: Given): Promise<Schemas["ListApplied"]> => {
      if (file.size < LONG_BYTES) return sendList<Schemas["ListApplied"]>("/api/v1/lists", file, said);
      const found = await workOnList("apply", file, said, told);
      return { id: found.applied ?? 0 };
    },
    { sites: true },
  );
}

const MANY_CHANGES = 2000;

/** Take a list back as one; a worker does it where that is long. */
export function useUndo() {
  const client = useQueryClient();
  return useWriting(async (list: Schemas["AppliedList"]): Promise<Schemas["ListUndone"]> => {
    const params = { path: { intake_id: list.id } };
    if (WRITTEN.reduce((sum, group) => sum + (list.counts[group] ?? 0), 0) < MANY_CHANGES) {
      return body(await api.POST("/api/v1/lists/{intake_id}/undoing", { params }));
    }
    const begun = body(await api.POST("/api/v1/lists/long/undoing/{intake_id}", { params }));
    void client.invalidateQueries({ queryKey: ["lists"] });
    const found = await whenEnded(begun, () => {});
    return found.undone ?? { changes: 0, stays: [] };
  });
}

/** Stop what a worker does with a list; nothing of it is saved. */
export const useStop = () =>
  useMutation({
    mutationFn: async (id: number) =>
      body(await api.POST("/api/v1/lists/long/{work_id}/cancel", { params: { path: { work_id: id } } })),
  });
