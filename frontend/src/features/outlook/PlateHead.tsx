import { useState } from "react";
import type { Schemas } from "@/api/client";
import { capital, day, figure, money, percent, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { ofHundred, policyWords, RISK_COLOURS, riskWords, TODO_COLOURS, todoWords } from "./asks";
import { OrderSheet } from "./OrderSheet";
import type { Plate } from "./outlook.queries";

function Urgency({ plate }: { plate: Plate }) {
  const { line } = plate;
  if (line.todo === null)
    return (
      <p className="text-soft">
        Nothing can be forecast yet: no failure was ever recorded, or no part of this kind in a machine.
      </p>
    );
  if (line.due_after_supply !== null) return <Ended plate={plate} due={line.due_after_supply} />;
  return (
    <>
      <p className={`font-semibold ${TODO_COLOURS[line.todo]}`}>{capital(todoWords(line))}.</p>
      <p className={RISK_COLOURS[line.risk ?? "fine"]}>{capital(riskWords(line))}.</p>
    </>
  );
}

/** What the rule is, what it promises, and what one part more or less would mean. */
function Rule({ plate, currency }: { plate: Plate; currency: string }) {
  const { line } = plate;
  if (line.order_at === null || line.fill === null) return null;
  const rows: [string, string][] = [
    ["Met at once", `${ofHundred(line.fill)} requests`],
    ...(line.fill_less === null
      ? []
      : [
          ["One less", `${ofHundred(line.fill_less)}, ${money(line.price, currency)} less tied up`] as [string, string],
        ]),
    ...(line.fill_more === null
      ? []
      : [
          ["One more", `${ofHundred(line.fill_more)}, ${money(line.price, currency)} more tied up`] as [string, string],
        ]),
    [
      "Position",
      `${line.position} (${line.on_hand} on the shelf + ${line.on_order} coming − ${line.promised} promised)`,
    ],
    ["Somebody waits before parts come", percent(line.chance_of_waiting ?? 0)],
  ];
  return (
    <section className="mt-3" aria-label="The rule">
      <p>{policyWords(line)}</p>
      <table className="mt-1 w-full text-[0.95rem]">
        <tbody>
          {rows.map(([name, value]) => (
            <tr key={name} className="border-b border-dotted border-rule">
              <th scope="row" className="py-0.5 text-left font-normal">
                {name}
              </th>
              <td className="text-right">{value}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Sites line={line} />
    </section>
  );
}

function Sites({ line }: { line: Plate["line"] }) {
  if (line.sites.length === 0) return null;
  return (
    <table className="mt-3 w-full text-[0.95rem]">
      <caption className="text-left font-semibold">Kept at the sites</caption>
      <thead>
        <tr className="border-b border-ink text-soft">
          <th scope="col" className="text-left font-normal">
            Site
          </th>
          <th scope="col" className="text-right font-normal">
            asks
          </th>
          <th scope="col" className="text-right font-normal">
            there
          </th>
          <th scope="col" className="text-right font-normal">
            kept
          </th>
          <th scope="col" className="text-right font-normal">
            load
          </th>
          <th scope="col" className="text-right font-normal">
            may wait
          </th>
          <th scope="col" className="text-right font-normal">
            met at once
          </th>
        </tr>
      </thead>
      <tbody>
        {line.sites.map((site) => (
          <tr key={site.code} className="border-b border-dotted border-rule">
            <th scope="row" className="py-0.5 text-left font-normal">
              {site.name}
            </th>
            <td className="text-right text-soft">{percent(site.share)}</td>
            <td className="text-right">{site.free}</td>
            <td className="text-right">{site.stocked ? site.level : "when needed"}</td>
            <td className="text-right font-semibold">{site.load || "–"}</td>
            <td className={`text-right ${RISK_COLOURS[site.risk]}`}>{percent(site.chance)}</td>
            <td className="text-right text-soft">{ofHundred(site.fill)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
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
    : `${plate.lead_days} days by ${site.carrier ?? "boat"} from ${depot} · at ${site.name}`;
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
      <Rule plate={plate} currency={session.currency} />
      {ordering && <OrderSheet plate={plate} onClose={() => setOrdering(false)} />}
    </header>
  );
}
