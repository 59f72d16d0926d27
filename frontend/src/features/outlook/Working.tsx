import { useState } from "react";
import { Link } from "react-router";
import { ageWithin, day, figure, perHundred, plural } from "@/lib/format";
import { AIR_NAMES, DUTY_NAMES, FINDING_NAMES, STREAM_NAMES } from "@/lib/words";
import { Button } from "@/ui/Button";
import { Waiting } from "@/ui/Notice";
import { type Plate, useEntries } from "./outlook.queries";

type Section = Plate["working"][number];

export interface WorkingProps {
  plate: Plate;
  shown: boolean;
  onToggle: () => void;
}

/** How every figure of the plate came about, down to the log entries. */
export function Working({ plate, shown, onToggle }: WorkingProps) {
  return (
    <section className="mt-5" aria-label="Working">
      <h3 className="flex items-baseline justify-between border-b border-ink pb-0.5 font-serif text-[1.15rem]">
        Working
        <button
          type="button"
          className="no-print font-sans text-[0.93rem] font-normal text-accent underline"
          aria-expanded={shown}
          onClick={onToggle}
        >
          {shown ? "close" : "open"} <kbd className="border border-rule px-1 text-soft no-underline">w</kbd>
        </button>
      </h3>
      {shown && (
        <>
          {plate.working.map((section) => (
            <WorkingTable key={section.title} section={section} number={plate.line.number} />
          ))}
          <Pools plate={plate} />
        </>
      )}
    </section>
  );
}

function WorkingTable({ section, number }: { section: Section; number: string }) {
  const [open, setOpen] = useState<string | null>(null);
  return (
    <div className="mt-3">
      <h4 className="font-semibold">{section.title}</h4>
      <p className="max-w-[70ch] text-[0.93rem] text-soft">{section.formula}</p>
      <table className="mt-1 w-full">
        <tbody>
          {section.rows.map((row) => (
            <tr
              key={row.label}
              className={
                row.total ? "border-t border-b-4 border-double border-ink" : "border-b border-dotted border-rule"
              }
            >
              <th scope="row" className={`py-0.5 pr-3 align-top ${row.total ? "" : "font-normal"}`}>
                {row.label}
                {row.note && <span className="block text-[0.88rem] font-normal text-soft">{row.note}</span>}
                {row.entries && (
                  <button
                    type="button"
                    className="no-print block text-[0.88rem] font-normal text-accent underline"
                    aria-expanded={open === row.entries}
                    onClick={() => setOpen(open === row.entries ? null : row.entries)}
                  >
                    {open === row.entries ? "hide" : "show"} this part's log entries
                  </button>
                )}
                {row.entries && open === row.entries && <Entries number={number} stream={row.entries} />}
              </th>
              <td className="py-0.5 text-right align-top font-semibold text-balance">{row.value}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const FIRST = 8;

function Entries({ number, stream }: { number: string; stream: string }) {
  const [all, setAll] = useState(false);
  const entries = useEntries(number, stream);
  if (entries.isError) return <p className="text-short">{entries.error.message}</p>;
  if (!entries.data) return <Waiting what="Reading the log" />;
  if (entries.data.length === 0) return <p className="font-normal text-soft">None of this part.</p>;
  const shown = all ? entries.data : entries.data.slice(0, FIRST);
  return (
    <div className="my-1 border-l-2 border-rule pl-2 font-normal">
      <p className="text-[0.88rem] text-soft">
        {STREAM_NAMES[stream]}: {plural(entries.data.length, "entry", "entries")}
      </p>
      <ul>
        {shown.map((entry) => (
          <li key={entry.incident_id} className="text-[0.93rem]">
            <Link to={`/ledger/${entry.incident_id}`} className="text-accent underline">
              {day(entry.occurred_on)}
            </Link>{" "}
            <span className="code">{entry.tag}</span> {entry.model}, {entry.site}: {FINDING_NAMES[entry.finding]} at{" "}
            {ageWithin(entry.age_days, entry.age_span_days)}
          </li>
        ))}
      </ul>
      {entries.data.length > FIRST && (
        <Button look="quiet" className="px-0!" onClick={() => setAll(!all)}>
          {all ? "fewer" : `all ${entries.data.length}`}
        </Button>
      )}
    </div>
  );
}

function Pools({ plate }: { plate: Plate }) {
  if (plate.pools.length === 0) return null;
  return (
    <div className="mt-3">
      <h4 className="font-semibold">Pools</h4>
      <p className="text-[0.93rem] text-soft">
        Units of this part in one model under one duty and one air. Rates per 100 units a year; the used rate is the
        pool's own, drawn towards the kind's mean.
      </p>
      <div className="overflow-x-auto">
        <table className="mt-1 w-full text-[0.93rem]">
          <thead>
            <tr className="border-b border-ink text-soft">
              <th scope="col">Pool</th>
              <th scope="col" className="pl-2 text-right">
                units
              </th>
              <th scope="col" className="pl-2 text-right">
                unit-years
              </th>
              <th scope="col" className="pl-2 text-right">
                D
              </th>
              <th scope="col" className="pl-2 text-right">
                own
              </th>
              <th scope="col" className="pl-2 text-right">
                used
              </th>
            </tr>
          </thead>
          <tbody>
            {plate.pools.map((pool) => (
              <tr
                key={`${pool.model_id}-${pool.duty}-${pool.environment}`}
                className="border-b border-dotted border-rule align-top"
              >
                <th scope="row" className="py-0.5 font-normal">
                  {pool.model}
                  <span className="block text-[0.9em] text-soft">
                    {DUTY_NAMES[pool.duty]}, {AIR_NAMES[pool.environment]}
                  </span>
                </th>
                <td className="pl-2 text-right">{figure(pool.units)}</td>
                <td className="pl-2 text-right">{figure(pool.unit_years, 1)}</td>
                <td className="pl-2 text-right">{figure(pool.failures, 1)}</td>
                <td className="pl-2 text-right">
                  {pool.own_rate === null ? "–" : perHundred(pool.own_rate)}
                  {pool.own_high !== null && (
                    <span className="block whitespace-nowrap text-[0.9em] text-soft">
                      {perHundred(pool.own_low)}–{perHundred(pool.own_high)}
                    </span>
                  )}
                </td>
                <td className="pl-2 text-right font-semibold">
                  {pool.used === null ? (
                    "–"
                  ) : (
                    <>
                      {perHundred(pool.used.rate)}
                      <span className="block whitespace-nowrap text-[0.9em] font-normal text-soft">
                        {perHundred(pool.used.low)}–{perHundred(pool.used.high)}
                      </span>
                    </>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
