import { describe, expect, it } from "vitest";
import type { Outlook } from "./outlook.queries";
import { oneCarrier, sentence } from "./sentence";

const outlook = (changes: Partial<Outlook>): Outlook => ({
  as_of: "2026-11-01",
  site: null,
  failing_soon: 46.6,
  soon_until: "2027-01-30",
  to_order: 3,
  to_load: 2,
  boats: 1,
  waiting: 1,
  thin: 2,
  unsaid: [],
  stated: [],
  next_order_on: "2026-11-01",
  unrecorded: 0,
  target: { value: 0.95, number: 1 },
  measure: "fill",
  review_days: { value: 14, number: 1 },
  schools: [],
  months: [],
  lines: [],
  other_orders: [],
  leaves: {},
  ...changes,
});

describe("the opening sentence", () => {
  it("names orders, boats and who waits", () => {
    expect(sentence(outlook({}))).toEqual({
      todo: ["3 orders to place today", "1 boat to load"],
      risk: "1 machine waits for a part; 2 parts are thin somewhere: somebody may wait",
      failing: "47 parts are expected to fail by 30 Jan 2027.",
    });
  });

  it("uses the company's word for what carries parts, and sites where the words differ", () => {
    expect(oneCarrier([{ carrier: null }, { carrier: "van" }, { carrier: "van" }])).toBe("van");
    expect(oneCarrier([{ carrier: "boat" }, { carrier: "van" }])).toBeNull();
    expect(oneCarrier([{ carrier: null }])).toBe("boat");
    expect(sentence(outlook({ boats: 2 }), "van").todo).toContain("2 vans to load");
    expect(sentence(outlook({ boats: 2 }), null).todo).toContain("2 sites to load");
  });

  it("speaks of one in the singular", () => {
    const one = sentence(outlook({ failing_soon: 1.2, to_order: 1, boats: 0, waiting: 0, thin: 1 }));
    expect(one.todo).toEqual(["1 order to place today"]);
    expect(one.risk).toBe("1 part is thin somewhere: somebody may wait");
    expect(one.failing).toBe("1 part is expected to fail by 30 Jan 2027.");
  });

  it("says when nothing is to be done, and when the next order is likely", () => {
    const calm = sentence(
      outlook({ to_order: 0, to_load: 0, boats: 0, waiting: 0, thin: 0, next_order_on: "2026-12-04" }),
    );
    expect(calm.todo).toEqual(["Nothing to order or load today, the next order is likely on 4 Dec 2026"]);
    expect(calm.risk).toBe("nobody waits, and no shelf is thin");
  });

  it("does not take silence for good news", () => {
    const unsaid = [{ parts: 4, what: "failures", why: "no incident is on record", cure: "import the log" }];
    const silent = sentence(outlook({ failing_soon: null, unsaid }));
    expect(silent).toEqual({ todo: null, risk: "", failing: null });
    const some = sentence(outlook({ to_order: 0, boats: 0, waiting: 0, thin: 0, next_order_on: null, unsaid }));
    expect(some.todo).toEqual(["Of what can be forecast, nothing to order or load today"]);
    expect(some.risk).toBe("where a forecast can be made, nobody waits");
    expect(sentence(outlook({ failing_soon: 0.2 })).failing).toBe(
      "Fewer than one part is expected to fail by 30 Jan 2027.",
    );
  });
});
