import { useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";
import { useWriting } from "@/shared/useWriting";

export type Machine = Schemas["MachineView"];

export function useMachine(tag: string) {
  return useQuery({
    queryKey: ["machine", tag],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/machines/{tag}", { params: { path: { tag } }, signal })),
  });
}

export const useEditMachine = (tag: string) =>
  useWriting(async (json: Schemas["MachineEditIn"]) =>
    body(await api.POST("/api/v1/machines/{tag}", { params: { path: { tag } }, body: json })),
  );

export const useMoveMachine = (tag: string) =>
  useWriting(async (json: Schemas["MachineMoveIn"]) =>
    body(await api.POST("/api/v1/machines/{tag}/moves", { params: { path: { tag } }, body: json })),
  );

export const useRetireMachine = (tag: string) =>
  useWriting(async (json: Schemas["MachineRetireIn"]) =>
    body(await api.POST("/api/v1/machines/{tag}/retirement", { params: { path: { tag } }, body: json })),
  );

export const useReinstateMachine = (tag: string) =>
  useWriting(async (json: Schemas["MachineReturnIn"]) =>
    body(await api.POST("/api/v1/machines/{tag}/return", { params: { path: { tag } }, body: json })),
  );

export const useDisposeMachine = (tag: string) =>
  useWriting(async (json: Schemas["MachineDisposeIn"]) =>
    body(await api.POST("/api/v1/machines/{tag}/disposal", { params: { path: { tag } }, body: json })),
  );

/** A machine with a dangerous pack is stopped by a job that nobody but a lead releases. */
export const useQuarantine = () =>
  useWriting(async (json: Schemas["JobIn"]) => body(await api.POST("/api/v1/jobs", { body: json })));
