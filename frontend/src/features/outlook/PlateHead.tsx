import { useState } from "react";
import type { Schemas } from "@/api/client";
import { day, figure, money, percent, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { OrderSheet } from "./OrderSheet";
import type { Plate } from "./outlook.queries";

function Urgency({ plate }: { plate: Plate }) {
  const { line } = plate;
  if (line.state === null)
    return (
      <p className="text-soft">
        Nothing can be forecast yet: no failure was ever recorded, or no part of this kind in a machine.
      </p>
    );
  if (line.due_after_supply !== null) return <Ended plate={plate} due={line.due_after_supply} />;
  if (line.late) {
    return (
      <p className="font-semibold text-short">
        {percent(line.chance_if_today ?? 0)} to fall below the floor before an order placed today arrives.
        {line.quantity === 0 && " What is on order covers the level: ask the supplier to hurry."}
      </p>
    );
  }
  if (line.order_by === null) return <p className="font-semibold text-covered">Covered for the coming year.</p>;
  const colour = line.state === "short" ? "text-short" : line.state === "thin" ? "text-thin" : "text-covered";
  return <p className={`font-semibold ${colour}`}>Order by {day(line.order_by)}.</p>;
}

/** An order that nobody can place: the supply ends before it would be due. */
function Ended({ plate, due }: { plate: Plate; due: string }) {
  const end = plate.line.end_of_supply_on;
  const over = end !== null && end < plate.as_of;
  return (
    <p className="font-semibold text-short">
      An order would be due {due <= plate.as_of ? "today" : `on ${day(due)}`}, but the part{" "}
      {over
        ? "can no longer be bought"
        : `is sold until ${end === null ? "then" : day(end)} only: buy the last ones by then`}
      .
    </p>
  );
}

function Warnings({ plate }: { plate: Plate }) {
  const { line } = plate;
  return (
    <>
      {line.end_of_supply_on && (
        <p className="mt-1 font-semibold text-thin">Can be bought until {day(line.end_of_supply_on)} only.</p>
      )}
      {line.rate && line.failures < 5 && (
        <p className="mt-1 text-soft">
          Rests on little: {figure(line.failures, 1)} failures of its own, so its rate is mostly that of its kind.
        </p>
      )}
      {line.expired > 0 && (
        <p className="mt-1 font-semibold text-thin">
          {plural(line.expired, "part")} on the shelf {line.expired === 1 ? "has" : "have"} expired: no stock, and in no
          figure here.
        </p>
      )}
      {line.scrap_expected > 0 && (
        <p className="mt-1 font-semibold text-thin">
          {plural(line.scrap_expected, "part")} on the shelf will expire unused at median demand.
        </p>
      )}
      {line.sites_short.length > 0 && (
        <table className="mt-3 w-full text-[0.95rem]">
          <caption className="text-left font-semibold text-thin">
            Likely to run out before the boat after the next review
          </caption>
          <tbody>
            {line.sites_short.map((entry) => (
              <tr key={entry.code} className="border-b border-dotted border-rule">
                <th scope="row" className="font-normal">
                  {entry.name}
                </th>
                <td className="text-right">{entry.on_hand} on hand</td>
                <td className="w-[64px] text-right font-semibold">{percent(entry.chance)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

/** How a part reaches the shelf of the site shown. */
function leadWords(plate: Plate, session: Schemas["SessionState"]): string {
  const site = session.sites.find((entry) => entry.code === plate.site);
  const depot = session.sites.find((entry) => entry.is_depot)?.name ?? "the depot";
  if (!site) return `${plate.lead_days} days to ${depot}`;
  return site.is_depot
    ? `${plate.lead_days} days to ${depot} · at ${depot}`
    : `${plate.lead_days} days by boat from ${depot} · at ${site.name}`;
}

export function PlateHead({ plate, session }: { plate: Plate; session: Schemas["SessionState"] }) {
  const { line } = plate;
  const [ordering, setOrdering] = useState(false);
  const fromSupplier = session.sites.every((entry) => entry.code !== plate.site || entry.is_depot);
  const mayOrder = session.user?.role === "lead" && fromSupplier;
  return (
    <header>
      <h2 className="text-[1.4rem]">{line.name}</h2>
      <p className="text-soft">
        <span className="code">{line.number}</span> · in {plural(plate.models, "model")} · {leadWords(plate, session)}
      </p>
      {line.equivalents.length > 0 && <p className="text-soft">Counted together with {line.equivalents.join(", ")}.</p>}
      <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        {mayOrder && (
          <Button look="main" onClick={() => setOrdering(true)}>
            {line.quantity > 0 ? `Mark ${line.quantity} as ordered` : "Mark as ordered"}
          </Button>
        )}
        <div className="min-w-[180px] flex-1">
          <Urgency plate={plate} />
        </div>
      </div>
      {line.quantity > 0 && (
        <p className="mt-1 text-soft">
          {plural(line.quantity, "part")} for {money(line.cost, session.currency)} from{" "}
          {fromSupplier ? plate.supplier : "the depot"}
          {plate.pack > 1 && `, in packs of ${plate.pack}`}.
        </p>
      )}
      <Warnings plate={plate} />
      {ordering && <OrderSheet plate={plate} onClose={() => setOrdering(false)} />}
    </header>
  );
}
