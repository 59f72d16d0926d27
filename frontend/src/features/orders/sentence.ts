import { figure, money, plural } from "@/lib/format";
import type { OrderList } from "./orders.queries";

/** The orders in two facts: what wants somebody, and what is on its way. */
export function sentence(list: OrderList): { lead: string; rest: string } {
  const open = list.orders.filter((order) => order.to_come > 0);
  const late = open.filter((order) => order.late > 0).length;
  const settle = list.orders.reduce((sum, order) => sum + order.to_settle, 0);
  const waits = list.drafts.filter((draft) => draft.state === "waits").length;
  const wants = [
    late > 0 ? `${plural(late, "order")} ${late === 1 ? "is" : "are"} late` : "",
    settle > 0 ? `${plural(settle, "answer")} of suppliers to settle` : "",
    waits > 0 ? `${plural(waits, "draft")} to approve` : "",
  ].filter(Boolean);
  const parts = open.reduce((sum, order) => sum + order.to_come, 0);
  const value = open.reduce((sum, order) => sum + order.total, 0);
  return {
    lead: wants.length > 0 ? wants.join(", ") : open.length > 0 ? "Nothing is late and nothing waits" : "Nothing waits",
    rest:
      open.length > 0
        ? `${plural(open.length, "order")} open with ${figure(parts)} parts to come, ordered for ${money(value, list.currency)}`
        : "nothing is on its way",
  };
}
