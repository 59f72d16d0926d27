import { expect, test } from "vitest";
import type { OrderList, OrderSummary } from "./orders.queries";
import { sentence } from "./sentence";

const order = (changes: Partial<OrderSummary>): OrderSummary => ({
  number: "PO-1",
  supplier: "Ostrel Spares",
  placed_on: "2026-10-01",
  standing: "sent",
  lines: 1,
  parts: 4,
  to_come: 4,
  late: 0,
  next_on: "2026-11-08",
  to_settle: 0,
  total: 40,
  ...changes,
});

const list = (orders: OrderSummary[], drafts: OrderList["drafts"] = []): OrderList => ({
  as_of: "2026-11-01",
  currency: "EUR",
  orders,
  drafts,
  limit: null,
});

test("what is late, to settle and to approve stands first", () => {
  const waits = {
    id: 1,
    supplier: "Ostrel Spares",
    state: "waits",
    asked_on: "2026-11-01",
    author: null,
    lines: 1,
    total: 9,
  };
  const said = sentence(list([order({ late: 2 }), order({ to_settle: 2 })], [waits]));
  expect(said.lead).toBe("1 order is late, 2 answers of suppliers to settle, 1 draft to approve");
  expect(said.rest).toBe("2 orders open with 8 parts to come, ordered for €80");
});

test("an order that ended is on nobody's way, and silence is said as such", () => {
  expect(sentence(list([order({ to_come: 0 })]))).toEqual({ lead: "Nothing waits", rest: "nothing is on its way" });
  expect(sentence(list([order({})])).lead).toBe("Nothing is late and nothing waits");
});
