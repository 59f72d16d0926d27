import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, body, type Schemas, sendStoreFile } from "@/api/client";
import { useWriting } from "@/shared/useWriting";

export type Tally = Schemas["TallyView"];
export type TallyLine = Schemas["TallyLine"];
export type Cell = Schemas["TallyCell"];
export type Shelf = Schemas["ShelfView"];
export type Transfer = Schemas["TransferView"];

const TALLY = ["stores"];
const LOOK_MS = 15_000;

export function useTally() {
  return useQuery({
    queryKey: TALLY,
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/stores", { signal })),
    placeholderData: keepPreviousData,
    refetchInterval: LOOK_MS,
  });
}

export function useShelf(number: string | undefined, site: string | undefined) {
  return useQuery({
    queryKey: ["shelf", number, site],
    queryFn: async () =>
      body(
        await api.GET("/api/v1/stores/shelves/{number}/{site}", {
          params: { path: { number: number ?? "", site: site ?? "" } },
        }),
      ),
    enabled: Boolean(number && site),
  });
}

export interface Place {
  number: string;
  site: string;
}

export const useAct = ({ number, site }: Place) =>
  useWriting(async (json: Schemas["StockActIn"]) =>
    body(
      await api.POST("/api/v1/stores/shelves/{number}/{site}/acts", { params: { path: { number, site } }, body: json }),
    ),
  );

export const useCount = ({ number, site }: Place) =>
  useWriting(async (json: Schemas["CountIn"]) =>
    body(
      await api.POST("/api/v1/stores/shelves/{number}/{site}/counts", {
        params: { path: { number, site } },
        body: json,
      }),
    ),
  );

export const usePromise = ({ number, site }: Place) =>
  useWriting(async (json: Schemas["PromiseIn"]) =>
    body(
      await api.POST("/api/v1/stores/shelves/{number}/{site}/promises", {
        params: { path: { number, site } },
        body: json,
      }),
    ),
  );

export const useRelease = () =>
  useWriting(async ({ id, reserved }: { id: number; reserved: boolean }) =>
    reserved
      ? body(await api.DELETE("/api/v1/stores/promises/{promise_id}", { params: { path: { promise_id: id } } }))
      : body(await api.DELETE("/api/v1/stores/waits/{wait_id}", { params: { path: { wait_id: id } } })),
  );

export const usePack = () =>
  useWriting(async (json: Schemas["TransferIn"]) => body(await api.POST("/api/v1/stores/transfers", { body: json })));

export const useTransferAct = () =>
  useWriting(async ({ id, ...json }: Schemas["TransferActIn"] & { id: number }) =>
    body(
      await api.POST("/api/v1/stores/transfers/{transfer_id}/acts", {
        params: { path: { transfer_id: id } },
        body: json,
      }),
    ),
  );

export const useUndo = () =>
  useWriting(async ({ id, reason }: { id: number; reason: string }) =>
    body(
      await api.POST("/api/v1/stores/acts/{act_id}/undoing", { params: { path: { act_id: id } }, body: { reason } }),
    ),
  );

export const useSettleCount = () =>
  useWriting(async ({ id, approve }: { id: number; approve: boolean }) =>
    body(
      await api.POST("/api/v1/stores/counts/{count_id}/settlement", {
        params: { path: { count_id: id } },
        body: { approve },
      }),
    ),
  );

export const useTakeFile = () =>
  useWriting(({ name, file }: { name: string; file: File }) => sendStoreFile(name, file));

export const useLane = (site: string) =>
  useWriting(
    async (json: Schemas["LaneIn"]) =>
      body(await api.POST("/api/v1/stores/lanes/{site}", { params: { path: { site } }, body: json })),
    { sites: true },
  );

export const useRecordTest = ({ number, site }: Place) =>
  useWriting(async ({ unit, result }: { unit: number; result: "good" | "worn" }) =>
    body(
      await api.POST("/api/v1/stores/shelves/{number}/{site}/recovered/{unit_id}", {
        params: { path: { number, site, unit_id: unit } },
        body: { result },
      }),
    ),
  );

export function usePart(number: string) {
  return useQuery({
    queryKey: ["catalog", number],
    queryFn: async () => body(await api.GET("/api/v1/catalog/parts/{number}", { params: { path: { number } } })),
  });
}

export const useEditPart = (number: string) =>
  useWriting(async (json: Schemas["PartEditIn"]) =>
    body(await api.POST("/api/v1/catalog/parts/{number}", { params: { path: { number } }, body: json })),
  );

export const useTopUp = () =>
  useWriting(async ({ number, site }: Place) =>
    body(await api.POST("/api/v1/stores/shelves/{number}/{site}/top-up", { params: { path: { number, site } } })),
  );

export const useSetSubstitute = (number: string) =>
  useWriting(async (json: Schemas["SubstituteIn"]) =>
    body(await api.POST("/api/v1/stores/parts/{number}/substitutes", { params: { path: { number } }, body: json })),
  );

export const useDropSubstitute = (number: string) =>
  useWriting(async (other: string) =>
    body(
      await api.DELETE("/api/v1/stores/parts/{number}/substitutes/{other}", { params: { path: { number, other } } }),
    ),
  );

export function useClaims() {
  return useQuery({
    queryKey: ["claims"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/stores/claims", { signal })).claims,
  });
}

export function useRetiring() {
  return useQuery({
    queryKey: ["retiring"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/stores/retiring", { signal })),
  });
}

/** Whether the books add up; it takes a while, and is looked at anew after writes. */
export function useBooks() {
  return useQuery({
    queryKey: ["books"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/stores/books", { signal })),
    staleTime: 60_000,
  });
}
