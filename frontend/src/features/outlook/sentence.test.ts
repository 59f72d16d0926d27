import { describe, expect, it } from "vitest";
import type { Outlook } from "./outlook.queries";
import { sentence } from "./sentence";

const outlook = (changes: Partial<Outlook>): Outlook => ({
  as_of: "2026-11-01",
  site: null,
  failing_soon: 46.6,
  soon_until: "2027-01-30",
  short: 3,
  short_at_sites: 0,
  unsaid: [],
  first_order_on: "2026-11-01",
  unrecorded: 0,
  target: { value: 0.95, number: 1 },
  review_days: { value: 14, number: 1 },
  schools: [],
  months: [],
  lines: [],
  ...changes,
});

describe("the opening sentence", () => {
  it("counts parts and shelves and names the first order", () => {
    expect(sentence(outlook({}))).toEqual({
      failing: { count: "47 parts", until: "are expected to fail by 30 Jan 2027." },
      short: "3 shelves run short",
      order: "today",
      due: true,
    });
  });

  it("speaks of one in the singular", () => {
    const one = sentence(outlook({ failing_soon: 1.2, short: 1, first_order_on: "2026-12-04" }));
    expect(one.failing?.count).toBe("1 part");
    expect(one.failing?.until.startsWith("is")).toBe(true);
    expect(one.short).toBe("1 shelf runs short");
    expect(one.order).toBe("4 Dec 2026");
  });

  it("never gives an all-clear above a shelf that is flagged", () => {
    expect(sentence(outlook({ short: 0, short_at_sites: 2 })).short).toBe(
      "2 shelves at outposts may run out before the boat",
    );
    expect(sentence(outlook({ short: 1, short_at_sites: 1 })).short).toBe(
      "1 shelf runs short, 1 shelf at outposts may run out before the boat",
    );
  });

  it("does not take silence for good news", () => {
    const unsaid = [{ parts: 4, what: "failures", why: "no incident is on record", cure: "import the log" }];
    const silent = sentence(outlook({ failing_soon: null, short: 0, first_order_on: null, unsaid }));
    expect(silent.failing).toBeNull();
    expect(silent.short).toBe("No shelf that can be forecast runs short");
    expect(silent.order).toBe("of those, no order is due within a year.");
    expect(sentence(outlook({ failing_soon: 0.2 })).failing?.count).toBe("Fewer than one part");
  });

  it("says when nothing is due", () => {
    const calm = sentence(outlook({ short: 0, first_order_on: null }));
    expect(calm.short).toBe("No shelf runs short");
    expect(calm.order).toBe("no order is due within a year.");
  });
});
