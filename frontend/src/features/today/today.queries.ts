import { useQuery } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type Today = Schemas["TodayView"];
export type Due = Schemas["DueView"];
export type Role = "lead" | "technician" | "reader";

export const todayKey = (role: Role) => ["today", role];

export const useToday = (role: Role) =>
  useQuery({
    queryKey: todayKey(role),
    queryFn: async ({ signal }) => body(await api.GET("/api/v1/today", { params: { query: { role } }, signal })),
  });
