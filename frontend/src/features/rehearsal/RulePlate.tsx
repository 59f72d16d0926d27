import { useState } from "react";
import { Link } from "react-router";
import { isProblem } from "@/api/client";
import { figure, money, plural } from "@/lib/format";
import { KIND_NAMES, kindColour } from "@/lib/words";
import { Button } from "@/ui/Button";
import { Sheet } from "@/ui/Sheet";
import { type Rehearsal, useTakeOver } from "./rehearsal.queries";
import { error, ofHundred, ruleAbout, ruleName } from "./words";

export interface RulePlateProps {
  found: Rehearsal;
  /** The plan, beside another rule. */
  beside: Rehearsal | null;
  currency: string;
  mayChange: boolean;
}

/** One rule as it was played. */
export function RulePlate({ found, beside, currency, mayChange }: RulePlateProps) {
  const [taking, setTaking] = useState(false);
  const isAim = found.rule.startsWith("aim-");
  return (
    <div className="p-4">
      <h2 className="text-[1.5rem]">{ruleName(found.rule)}</h2>
      <p className="mt-1 text-soft">{ruleAbout(found.rule)}</p>
      {beside && <Difference found={found} beside={beside} currency={currency} />}
      {isAim && mayChange && found.aim !== found.target.value && (
        <p className="mt-2">
          <Button look="main" onClick={() => setTaking(true)}>
            Make this the company's aim
          </Button>
        </p>
      )}
      {found.hole.fill && (
        <p className="mt-2">
          The hole one starts in: until an order of today is there, {ofHundred({ value: found.hole.fill.value })} found
          their part and {figure(found.hole.waiting.value)} machine-days were lost.
        </p>
      )}
      {found.scrapped_value.value >= 1 && (
        <p className="mt-1">
          Parts for {money(Math.round(found.scrapped_value.value), currency)} expire unused in a year.
        </p>
      )}
      <Kinds found={found} />
      <Places found={found} />
      <Budget found={found} currency={currency} />
      <Worst found={found} />
      {taking && <TakeOver found={found} onClose={() => setTaking(false)} />}
    </div>
  );
}

function Difference({ found, beside, currency }: { found: Rehearsal; beside: Rehearsal; currency: string }) {
  const days = found.whole.expected_waiting.value - beside.whole.expected_waiting.value;
  const spent = found.money.median - beside.money.median;
  const stock = found.stock_value.value - beside.stock_value.value;
  const than = (value: number, more: string, less: string): string => (value >= 0 ? more : less);
  return (
    <p className="mt-2 border-l-2 border-ink pl-3">
      Beside the plan: {figure(Math.abs(days))} machine-days {than(days, "more", "fewer")} lost a year,{" "}
      {money(Math.abs(Math.round(spent)), currency)} {than(spent, "more", "less")} spent in the first,{" "}
      {money(Math.abs(Math.round(stock)), currency)} {than(stock, "more", "less")} on the shelves.
    </p>
  );
}

function Head({ children, aside }: { children: string; aside?: string }) {
  return (
    <h3 className="mt-4 flex items-baseline justify-between border-b border-rule pb-0.5 font-sans text-[1rem]">
      {children} {aside && <span className="font-normal text-[0.93rem] text-soft">{aside}</span>}
    </h3>
  );
}

function Kinds({ found }: { found: Rehearsal }) {
  return (
    <>
      <Head aside="met at once, machine-days and orders a year">By kind</Head>
      <table className="w-full">
        <thead className="sr-only">
          <tr>
            {["Kind", "Met at once", "Machine-days lost a year", "Orders a year"].map((name) => (
              <th key={name} scope="col">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {found.kinds.map(({ kind, figures }) => (
            <tr key={kind} className="border-b border-dotted border-rule">
              <th scope="row" className="py-0.5 font-normal">
                <span
                  aria-hidden="true"
                  className="mr-2 inline-block h-2.5 w-2.5"
                  style={{ background: kindColour(kind) }}
                />
                {KIND_NAMES[kind] ?? kind}
              </th>
              <td className="text-right font-semibold">{ofHundred(figures.fill)}</td>
              <td className="text-right">{figure(figures.expected_waiting.value)}</td>
              <td className="text-right">{figure(figures.orders_a_year.value)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Places({ found }: { found: Rehearsal }) {
  if (found.places.length < 2) return null;
  return (
    <>
      <Head aside="met at once">By storeroom</Head>
      <table className="w-full">
        <tbody>
          {found.places.map((place) => (
            <tr key={place.code} className="border-b border-dotted border-rule">
              <th scope="row" className="py-0.5 font-normal">
                <span className="code">{place.code}</span> {place.name}
              </th>
              <td className="text-right font-semibold">
                {ofHundred(place.fill)}
                {place.fill && <span className="font-normal text-soft"> ± {error(place.fill)}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

/** A year's money by kind and quarter. */
function Budget({ found, currency }: { found: Rehearsal; currency: string }) {
  return (
    <>
      <Head aside={`median, 5 to 95%, ${currency}`}>The first year's money</Head>
      <table className="w-full text-[0.93rem]">
        <thead>
          <tr className="border-b border-rule">
            <th scope="col">Kind</th>
            {[1, 2, 3, 4].map((quarter) => (
              <th key={quarter} scope="col" className="text-right">
                Quarter {quarter}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {found.kinds.map(({ kind, quarters }) => (
            <tr key={kind} className="border-b border-dotted border-rule align-top">
              <th scope="row" className="py-0.5 font-normal">
                {KIND_NAMES[kind] ?? kind}
              </th>
              {quarters.map((spread, place) => (
                <td key={place} className="py-0.5 text-right">
                  {figure(spread.median)}
                  <span className="block text-[0.9em] text-soft">
                    {figure(spread.low)} – {figure(spread.high)}
                  </span>
                </td>
              ))}
            </tr>
          ))}
          <tr className="border-b-4 border-double border-ink">
            <th scope="row" className="py-1">
              The year
            </th>
            <td colSpan={4} className="text-right font-semibold">
              {money(Math.round(found.money.median), currency)}{" "}
              <span className="font-normal text-soft">
                {figure(found.money.low)} to {figure(found.money.high)}
              </span>
            </td>
          </tr>
        </tbody>
      </table>
      <p className="no-print mt-1 text-[0.93rem]">
        <a className="text-accent underline" href={`/api/v1/rehearsal/budget.csv?rule=${found.rule}`} download>
          CSV
        </a>{" "}
        <button type="button" className="text-accent underline" onClick={() => window.print()}>
          print
        </button>
      </p>
    </>
  );
}

function Worst({ found }: { found: Rehearsal }) {
  if (found.worst.length === 0) return null;
  return (
    <>
      <Head aside="machine-days lost a year, at the start, and why">{`The worst ${plural(found.worst.length, "part")}`}</Head>
      <table className="w-full">
        <tbody>
          {found.worst.map((part) => (
            <tr key={part.number} className="border-b border-dotted border-rule align-top">
              <th scope="row" className="py-1 pr-2 font-normal">
                <Link
                  className="code inline-block min-h-[25px] text-accent underline"
                  to={`/outlook/${encodeURIComponent(part.number)}`}
                >
                  {part.number}
                </Link>
              </th>
              <td className="py-1 pr-2">{part.why}</td>
              <td className="py-1 pr-2 text-right whitespace-nowrap">{ofHundred(part.fill)}</td>
              <td className="py-1 text-right font-semibold whitespace-nowrap">
                {figure(part.waiting, part.waiting < 10 ? 1 : 0)}
                {part.before >= 0.5 && <span className="font-normal text-soft"> + {figure(part.before)}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

/** An aim is taken over: said once more with what it costs, and that kinds and parts may have their own. */
function TakeOver({ found, onClose }: { found: Rehearsal; onClose: () => void }) {
  const take = useTakeOver();
  const problem = isProblem(take.error) ? take.error : null;
  const aim = found.aim ?? found.target.value;
  return (
    <Sheet
      open
      onClose={onClose}
      title={ruleName(found.rule)}
      about={`Reorder points and levels follow this aim from today on. Now it is ${Number((found.target.value * 100).toFixed(2))} of 100.`}
    >
      {found.aim_settings > 0 && (
        <p className="text-thin">
          {plural(found.aim_settings, "kind or part has", "kinds and parts have")} an aim of{" "}
          {found.aim_settings === 1 ? "its" : "their"} own, which stays.
        </p>
      )}
      {problem && (
        <p role="alert" className="text-short">
          {problem.detail}
        </p>
      )}
      <div className="mt-3 flex gap-3">
        <Button
          look="main"
          disabled={take.isPending}
          onClick={() => take.mutate({ aim, number: found.target.number }, { onSuccess: onClose })}
        >
          Make it the company's aim
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </Sheet>
  );
}
