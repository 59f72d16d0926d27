import { describe, expect, it } from "vitest";
import {
  addDays,
  age,
  day,
  figure,
  longDay,
  money,
  monthLetter,
  monthName,
  percent,
  perHundred,
  plural,
  shortDay,
} from "./format";

describe("days", () => {
  it("are written as people read them, whatever the browser's time zone", () => {
    expect(day("2026-12-04")).toBe("4 Dec 2026");
    expect(day("2026-09-30T23:59:00Z")).toBe("30 Sep 2026");
    expect(shortDay("2026-12-04")).toBe("4 Dec");
    expect(longDay("2026-11-01")).toBe("Sunday, 1 November 2026");
  });

  it("have their month by name and letter", () => {
    expect(monthName("2026-09-01")).toBe("Sep");
    expect(monthLetter("2026-10-15")).toBe("O");
  });

  it("are counted over leap days and ends of years", () => {
    expect(addDays("2028-02-28", 1)).toBe("2028-02-29");
    expect(addDays("2026-12-20", 21)).toBe("2027-01-10");
    expect(addDays("2026-03-01", -1)).toBe("2026-02-28");
  });
});

describe("figures", () => {
  it("separate thousands and keep the digits asked for", () => {
    expect(figure(2604.55, 1)).toBe("2,604.6");
    expect(figure(1188)).toBe("1,188");
    expect(perHundred(0.0893)).toBe("8.9");
  });

  it("never round a chance to nothing or to certainty", () => {
    expect(percent(0)).toBe("0%");
    expect(percent(0.004)).toBe("under 1%");
    expect(percent(0.42)).toBe("42%");
    expect(percent(0.996)).toBe("over 99%");
    expect(percent(1)).toBe("100%");
  });

  it("show money with cents only where there are any", () => {
    expect(money(244, "EUR")).toBe("€244");
    expect(money(61.5, "EUR")).toBe("€61.50");
  });

  it("tell an age in the unit that fits", () => {
    expect(age(12)).toBe("12 days");
    expect(age(365)).toBe("12 months");
    expect(age(1480)).toBe("4.1 years");
  });

  it("agree in number", () => {
    expect(plural(1, "part")).toBe("1 part");
    expect(plural(0, "part")).toBe("0 parts");
    expect(plural(1200, "entry", "entries")).toBe("1,200 entries");
  });
});
