import { describe, expect, it } from "vitest";
import type { Outlook } from "./outlook.queries";
import { sentence } from "./sentence";

const outlook = (changes: Partial<Outlook>): Outlook => ({
  as_of: "2026-11-01",
  site: null,
  failing_soon: 46.6,
  soon_until: "2027-01-30",
  short: 3,
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
      failing: "47 parts",
      until: "are expected to fail by 30 Jan 2027.",
      short: "3 shelves run short",
      order: "today",
    });
  });

  it("speaks of one in the singular", () => {
    const one = sentence(outlook({ failing_soon: 1.2, short: 1, first_order_on: "2026-12-04" }));
    expect(one.failing).toBe("1 part");
    expect(one.until.startsWith("is")).toBe(true);
    expect(one.short).toBe("1 shelf runs short");
    expect(one.order).toBe("4 Dec 2026");
  });

  it("says when nothing is due", () => {
    const calm = sentence(outlook({ short: 0, first_order_on: null }));
    expect(calm.short).toBe("No shelf runs short");
    expect(calm.order).toBe("no order is due within a year.");
  });
});
