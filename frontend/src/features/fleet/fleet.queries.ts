import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";
import { useAddress } from "@/lib/useAddress";
import { useWriting } from "@/shared/useWriting";

export type Ages = Schemas["AgesView"];
export type RegisterLine = Schemas["RegisterLine"];
export type MachineStanding = NonNullable<Schemas["RegisterPageQuery"]["standing"]>;
export type RegisterOrder = NonNullable<Schemas["RegisterPageQuery"]["sort"]>;
export type KeptLook = Schemas["FleetViewKept"];

/** Names in the address that say what is looked for, how it is sorted and which columns are shown. */
export const LOOK_KEYS = [
  "q",
  "model",
  "duty",
  "standing",
  "youngest",
  "oldest",
  "wanted",
  "sort",
  "descending",
  "columns",
] as const;
type LookKey = (typeof LOOK_KEYS)[number];
export type Look = Record<LookKey, string> & { site: string };

const PAGE = 100;

/** The look at the register is part of the address, so that it can be sent to a colleague or kept. */
export function useLook(): [Look, (changed: Partial<Record<LookKey, string>>) => void] {
  const [params, changeAddress] = useAddress();
  const change = (changed: Partial<Record<LookKey, string>>): void => changeAddress(changed, "replace");
  const text = (key: string): string => params.get(key) ?? "";
  const look = Object.fromEntries(LOOK_KEYS.map((key) => [key, text(key)])) as Record<LookKey, string>;
  return [{ ...look, site: text("site") }, change];
}

const age = (text: string): number | null => (/^\d{1,2}$/.test(text) ? Number(text) : null);

const asked = (look: Look) => ({
  q: look.q,
  model: look.model,
  site: look.site,
  duty: look.duty,
  standing: (look.standing || "in_use") as MachineStanding,
  youngest: age(look.youngest),
  oldest: age(look.oldest),
  wanted: look.wanted,
});

export function useRegister(look: Look) {
  const query = {
    ...asked(look),
    sort: (look.sort || "tag") as RegisterOrder,
    descending: look.descending === "yes",
  };
  return useInfiniteQuery({
    queryKey: ["register", query],
    queryFn: async ({ signal, pageParam }) =>
      body(
        await api.GET("/api/v1/fleet/machines", {
          params: { query: { ...query, first: pageParam, most: PAGE } },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const read = pages.reduce((sum, page) => sum + page.machines.length, 0);
      return read < last.total && last.machines.length > 0 ? read : undefined;
    },
    placeholderData: keepPreviousData,
  });
}

/** Where the machines that are meant can be had as CSV. */
export function csvAddress(look: Look): string {
  const params = new URLSearchParams();
  for (const [key, value] of Object.entries(asked(look))) {
    if (value !== null && value !== "") params.set(key, String(value));
  }
  return `/api/v1/fleet/machines.csv?${params}`;
}

export function useAges(by: "model" | "site", site: string) {
  return useQuery({
    queryKey: ["ages", by, site],
    queryFn: async ({ signal }) =>
      body(await api.GET("/api/v1/fleet/ages", { params: { query: { by, site: site || null } }, signal })),
    placeholderData: keepPreviousData,
  });
}

export const useModelNames = () =>
  useQuery({
    queryKey: ["models", ""],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/models", { params: { query: {} }, signal })),
  });

export const useKeptLooks = () =>
  useQuery({
    queryKey: ["kept looks"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/fleet/views", { signal })),
  });

export const useKeepLook = () =>
  useWriting(async (json: Schemas["FleetViewIn"]) => body(await api.POST("/api/v1/fleet/views", { body: json })));

export const useDropLook = () =>
  useWriting(async (id: number) =>
    body(await api.DELETE("/api/v1/fleet/views/{view_id}", { params: { path: { view_id: id } } })),
  );

export const useChangeMany = () =>
  useWriting(async (json: Schemas["BulkIn"]) => body(await api.POST("/api/v1/fleet/changes", { body: json })));

export const useReports = () =>
  useQuery({
    queryKey: ["machine reports"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/machine-reports", { signal })),
  });

export const useSettleQuestion = () =>
  useWriting(async ({ id, reason }: { id: number; reason: string }) =>
    body(
      await api.POST("/api/v1/machine-reports/questions/{question_id}", {
        params: { path: { question_id: id } },
        body: { reason },
      }),
    ),
  );

export const useTokens = () =>
  useQuery({
    queryKey: ["tokens"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/tokens", { signal })),
  });

export const useMakeToken = () =>
  useWriting(async (json: Schemas["TokenIn"]) => body(await api.POST("/api/v1/tokens", { body: json })));

export const useEndToken = () =>
  useWriting(async (id: number) =>
    body(await api.DELETE("/api/v1/tokens/{token_id}", { params: { path: { token_id: id } } })),
  );
