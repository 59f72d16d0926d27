import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, body, rememberToken, type Schemas } from "@/api/client";

export type Session = Schemas["SessionState"];

const KEY = ["session"];

/** Keeps the token that guards writes. */
export function remember(session: Session): Session {
  rememberToken(session.csrf_token);
  return session;
}

export function useSession() {
  return useQuery({
    queryKey: KEY,
    queryFn: async () => remember(body(await api.GET("/api/v1/session"))),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useSignIn() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (json: Schemas["SignIn"]) => remember(body(await api.POST("/api/v1/session", { body: json }))),
    onSuccess: (session) => client.setQueryData(KEY, session),
  });
}

export function useFirstUser() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (json: Schemas["FirstUserIn"]) =>
      remember(body(await api.POST("/api/v1/first-user", { body: json }))),
    onSuccess: (session) => client.setQueryData(KEY, session),
  });
}

export function useSignOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async () => remember(body(await api.DELETE("/api/v1/session"))),
    onSuccess: (session) => {
      client.setQueryData(KEY, session);
      client.removeQueries({ predicate: (query) => query.queryKey[0] !== KEY[0] }); // nothing read before stays readable
    },
  });
}

const findOptions = (words: string) => ({
  queryKey: ["find", words],
  queryFn: async () => body(await api.GET("/api/v1/find", { params: { query: { q: words } } })).found,
});

export function useFind(words: string) {
  return useQuery({ ...findOptions(words), enabled: words.length > 1 });
}

/** The answer for words that were typed faster than it could arrive, as a scanner does. */
export function useFindNow() {
  const client = useQueryClient();
  return (words: string) => client.fetchQuery(findOptions(words));
}
