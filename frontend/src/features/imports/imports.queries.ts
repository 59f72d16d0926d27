import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, body, sendFiles } from "@/api/client";

export function useFormats() {
  return useQuery({
    queryKey: ["import-formats"],
    queryFn: async () => body(await api.GET("/api/v1/imports/formats")),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useSendFiles() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ files, write }: { files: File[]; write: boolean }) => sendFiles(files, write),
    onSuccess: (report) => (report.written ? client.invalidateQueries() : undefined),
  });
}
