import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type Work = Schemas["WorkView"];

const KEY = ["work"];
const LOOK_MS = 2000;

export function useWork() {
  return useQuery({
    queryKey: KEY,
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/work", { signal })),
    refetchInterval: LOOK_MS,
  });
}

export function useWorkAct(act: "cancel" | "retry") {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (job_id: number) =>
      body(await api.POST(`/api/v1/work/{job_id}/${act}`, { params: { path: { job_id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
  });
}
