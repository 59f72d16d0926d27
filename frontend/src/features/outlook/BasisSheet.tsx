import { isProblem, type Schemas } from "@/api/client";
import { day, figure, moment, perHundred } from "@/lib/format";
import { Sheet } from "@/ui/Sheet";
import { useBasis } from "./outlook.queries";

type Standing = Schemas["Standing"];
type Moved = Schemas["WhatMoved"];

const NOT_SAID = "not said";

const ROWS: [string, (at: Standing) => string][] = [
  ["In service, units", (at) => figure(at.in_service)],
  ["On hand, parts", (at) => figure(at.on_hand)],
  ["On order, parts", (at) => figure(at.on_order)],
  ["Failure rate, per 100 units a year", (at) => (at.rate === null ? NOT_SAID : perHundred(at.rate))],
  ["Wanted in 365 days, parts", (at) => (at.year === null ? NOT_SAID : figure(at.year, 1))],
  ["Position", (at) => (at.position === null ? NOT_SAID : figure(at.position))],
  ["Order at", (at) => (at.order_at === null ? NOT_SAID : figure(at.order_at))],
  ["Likely next order", (at) => (at.likely_on ? day(at.likely_on) : "none within a year")],
  ["Quantity", (at) => figure(at.quantity)],
];

const MOVED: [string, (moved: Moved) => number][] = [
  ["Ageing", (moved) => moved.ageing],
  ["Fleet", (moved) => moved.fleet],
  ["Log", (moved) => moved.log],
  ["Settings", (moved) => moved.settings],
];

/** An order reopened as it was seen: what was said then, what is said now, and what moved the demand in between. */
export function BasisSheet({ order, onClose }: { order: string; onClose: () => void }) {
  const found = useBasis(order);
  const about = found.data
    ? `${found.data.part_number}, ordered ${moment(found.data.pinned_at)}${found.data.author ? ` by ${found.data.author}` : ""}`
    : "";
  return (
    <Sheet open onClose={onClose} title={`What ${order} rested on`} about={about}>
      {found.isError && <p role="alert">{isProblem(found.error) ? found.error.detail : "It could not be read."}</p>}
      {!found.data && !found.isError && <p role="status">Looking it up…</p>}
      {found.data && <Sides then={found.data.then} now={found.data.now} />}
      {found.data?.moved && <Split moved={found.data.moved} since={found.data.then.as_of} />}
    </Sheet>
  );
}

function Sides({ then, now }: { then: Standing; now: Standing }) {
  return (
    <table className="w-full">
      <thead>
        <tr className="border-b border-ink">
          <th scope="col" className="py-1 text-left">
            <span className="sr-only">Figure</span>
          </th>
          <th scope="col" className="text-right">
            as of {day(then.as_of)}
          </th>
          <th scope="col" className="pl-4 text-right">
            now, {day(now.as_of)}
          </th>
        </tr>
      </thead>
      <tbody>
        {ROWS.map(([name, value]) => (
          <tr key={name} className="border-b border-dotted border-rule">
            <th scope="row" className="py-1 text-left font-normal">
              {name}
            </th>
            <td className="text-right">{value(then)}</td>
            <td className={`pl-4 text-right ${value(then) === value(now) ? "text-soft" : "font-semibold"}`}>
              {value(now)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Split({ moved, since }: { moved: Moved; since: string }) {
  return (
    <p className="mt-3">
      Parts wanted in a year since {day(since)}: {figure(moved.before, 1)} then,{" "}
      {MOVED.map(
        ([name, value]) => `${name.toLowerCase()} ${value(moved) < 0 ? "−" : "+"}${figure(Math.abs(value(moved)), 1)}`,
      ).join(", ")}
      , {figure(moved.now, 1)} now.
    </p>
  );
}
