import { useQuery } from "@tanstack/react-query";
import { api, body, type Schemas, sendCompany } from "@/api/client";
import { useWriting } from "@/shared/useWriting";

export type Company = Schemas["CompanyView"];
export type SiteFields = Schemas["SiteFields"];
export type SupplierFields = Schemas["SupplierFields"];

export function useCompany() {
  return useQuery({
    queryKey: ["company"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/company", { signal })),
  });
}

export function useFirstDay() {
  return useQuery({
    queryKey: ["first day"],
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/company/first-day", { signal })),
  });
}

export const useDescribe = () =>
  useWriting(async (json: Schemas["CompanyEditIn"]) => body(await api.POST("/api/v1/company", { body: json })), {
    sites: true,
  });

export const useEditSite = (code: string) =>
  useWriting(
    async (json: Schemas["SiteEditIn"]) =>
      body(await api.POST("/api/v1/company/sites/{code}", { params: { path: { code } }, body: json })),
    { sites: true },
  );

export const useAddSite = () =>
  useWriting(async (json: Schemas["SiteAddIn"]) => body(await api.POST("/api/v1/company/sites", { body: json })), {
    sites: true,
  });

export const useEditSupplier = (id: number) =>
  useWriting(async (json: Schemas["SupplierEditIn"]) =>
    body(
      await api.POST("/api/v1/company/suppliers/{supplier_id}", { params: { path: { supplier_id: id } }, body: json }),
    ),
  );

export const useAddSupplier = () =>
  useWriting(async (json: SupplierFields) => body(await api.POST("/api/v1/company/suppliers", { body: json })));

export const useReadCompany = () => useWriting(sendCompany, { sites: true });
