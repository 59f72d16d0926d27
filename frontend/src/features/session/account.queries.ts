import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type SignIn = Schemas["SignInView"];

const KEY = ["account", "sign-ins"];

export function useSignIns() {
  return useQuery({
    queryKey: KEY,
    queryFn: async () => body(await api.GET("/api/v1/account/sign-ins")),
  });
}

export function useEndSignIn() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (id: number) =>
      body(await api.DELETE("/api/v1/account/sign-ins/{sign_in_id}", { params: { path: { sign_in_id: id } } })),
    onSettled: () => client.invalidateQueries({ queryKey: KEY }),
  });
}

export function useEndOthers() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async () => body(await api.DELETE("/api/v1/account/sign-ins")),
    onSettled: () => client.invalidateQueries({ queryKey: KEY }),
  });
}

export function useChangePassword() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (json: Schemas["PasswordIn"]) => body(await api.POST("/api/v1/account/password", { body: json })),
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
  });
}
