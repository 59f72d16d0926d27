import { keepPreviousData, useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type Person = Schemas["PersonView"];
export type PersonFields = Schemas["PersonIn"];
export type PersonLink = Schemas["PersonLink"];

const KEY = ["people"];

export function usePeople() {
  return useQuery({ queryKey: KEY, queryFn: async () => body(await api.GET("/api/v1/people")) });
}

export function useLimits() {
  return useQuery({
    queryKey: ["people", "limits"],
    queryFn: async () => body(await api.GET("/api/v1/people/limits")),
  });
}

function usePeopleAct<Given, Told>(act: (given: Given) => Promise<Told>) {
  const client = useQueryClient();
  return useMutation({ mutationFn: act, onSettled: () => client.invalidateQueries({ queryKey: KEY }) });
}

const of = (id: number) => ({ params: { path: { person_id: id } } });

export const useAddPerson = () =>
  usePeopleAct(async (json: Schemas["NewPersonIn"]) => body(await api.POST("/api/v1/people", { body: json })));

export const useChangePerson = () =>
  usePeopleAct(async ({ id, fields }: { id: number; fields: PersonFields }) =>
    body(await api.POST("/api/v1/people/{person_id}", { ...of(id), body: fields })),
  );

export const useEndPerson = () =>
  usePeopleAct(async (id: number) => body(await api.POST("/api/v1/people/{person_id}/end", of(id))));

export const useTakeBack = () =>
  usePeopleAct(async (id: number) => body(await api.POST("/api/v1/people/{person_id}/back", of(id))));

export const useMakeLink = () =>
  usePeopleAct(async (id: number) => body(await api.POST("/api/v1/people/{person_id}/link", of(id))));

export const useSignOutPerson = () =>
  usePeopleAct(async (id: number) => body(await api.DELETE("/api/v1/people/{person_id}/sign-ins", of(id))));

export const useLetIn = () =>
  usePeopleAct(async (id: number) => body(await api.POST("/api/v1/people/{person_id}/provider", of(id))));

export const useLetOut = () =>
  usePeopleAct(async (id: number) => body(await api.DELETE("/api/v1/people/{person_id}/provider", of(id))));

export interface AuditWish {
  group: string;
  words: string;
  since: string;
  until: string;
}

/** What is asked for in an address: what is left open is left out. */
export const wished = (wish: AuditWish): Partial<AuditWish> =>
  Object.fromEntries(Object.entries(wish).filter(([, value]) => value !== ""));

export function useAudit(wish: AuditWish) {
  return useInfiniteQuery({
    queryKey: ["audit", wish],
    placeholderData: keepPreviousData,
    initialPageParam: {} as { before?: string; before_key?: string },
    queryFn: async ({ pageParam }) =>
      body(await api.GET("/api/v1/audit", { params: { query: { ...wished(wish), ...pageParam } } })),
    getNextPageParam: (page) => {
      const last = page.rows.at(-1);
      return page.more && last ? { before: last.at, before_key: last.key } : undefined;
    },
  });
}
