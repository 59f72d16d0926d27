import { useState } from "react";
import { Link, useNavigate, useOutletContext, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { counted, day, figure, plural } from "@/lib/format";
import { useWalk } from "@/lib/useWalk";
import { KIND_NAMES } from "@/lib/words";
import { SettingsSheet } from "@/shared/SettingsSheet";
import { type Alarms, alarmPath, type ChartLine, useAlarms } from "@/shared/useAlarms";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { AlarmPlate } from "./AlarmPlate";
import { useAlarmSettings } from "./alarms.queries";
import { seenAgainst } from "./alarmWords";

/** Failures that run ahead of what was expected: what is open, what was decided, and every lot with its record. */
export default function AlarmsPage() {
  const [asked] = useSearchParams();
  const found = useAlarms();
  const navigate = useNavigate();
  const listed = found.data
    ? [...found.data.open, ...found.data.decided, ...found.data.past, ...found.data.lots].map((line) => line.chart)
    : [];
  const chosen = asked.get("chart") ?? listed[0] ?? null;
  useWalk([...new Set(listed)], chosen, (chart) => void navigate(alarmPath(chart)));
  if (found.isError) return <FailedToRead title="No alarms" query={found} />;
  if (!found.data) return <Computing what="Holding every failure against what was expected" queryKey={["alarms"]} />;
  return (
    <Spread
      name="alarms"
      share={46}
      least={34}
      leftLabel="Alarms and lots"
      turned={asked.get("chart")}
      rightLabel="Chart"
      left={<Index alarms={found.data} chosen={chosen} />}
      right={chosen ? <AlarmPlate chart={chosen} /> : <Nothing>Nothing is watched yet.</Nothing>}
    />
  );
}

function Index({ alarms, chosen }: { alarms: Alarms; chosen: string | null }) {
  return (
    <div className="p-4">
      <div className="flex items-baseline justify-between gap-3">
        <h1 className="text-[1.75rem]">Alarms</h1>
        <Link className="text-accent underline" to="/rates">
          Rates
        </Link>
      </div>
      <p className="mt-1 max-w-[60ch] font-serif text-[1.2rem] leading-snug">
        {alarms.charts === 0 ? (
          <strong className="text-thin">Nothing can be watched yet.</strong>
        ) : alarms.open.length ? (
          <>
            <strong className="text-short">{plural(alarms.open.length, "alarm is", "alarms are")} open</strong>:
            failures run ahead of what the rest of the log leads to expect.
          </>
        ) : (
          <>
            <strong>No alarm is open.</strong> On {plural(alarms.charts, "chart")} failures come as they were expected,
            as far as the log tells.
          </>
        )}
      </p>
      {alarms.charts > 0 && <Allowance alarms={alarms} />}
      {alarms.silent.length > 0 && (
        <p className="text-thin">
          {alarms.silent.map((kind) => KIND_NAMES[kind] ?? kind).join(", ")}: no failure is on record, so there is
          nothing to hold failures against.
        </p>
      )}
      {alarms.kinds.some((kind) => kind.no_lot > 0) && (
        <p className="text-[0.93rem] text-soft">
          Of{" "}
          {alarms.kinds
            .filter((kind) => kind.no_lot > 0)
            .map((kind) => `${plural(kind.no_lot, "unit")} of ${(KIND_NAMES[kind.kind] ?? kind.kind).toLowerCase()}`)
            .join(", ")}{" "}
          nobody knows the lot. What comes off a shelf from now on keeps it.
        </p>
      )}
      <Lines title="To decide" lines={alarms.open} chosen={chosen} />
      <Lines title="Decided" lines={alarms.decided} chosen={chosen} />
      <Lines title="Spoke in the past" lines={alarms.past} chosen={chosen} />
      <Lots alarms={alarms} chosen={chosen} />
    </div>
  );
}

/** How often all charts together may speak without cause; a lead sets it. */
function Allowance({ alarms }: { alarms: Alarms }) {
  const lead = useOutletContext<Schemas["SessionState"]>().user?.role === "lead";
  const [open, setOpen] = useState(false);
  const settings = useAlarmSettings(open);
  return (
    <p className="text-soft">
      {plural(alarms.charts, "chart")}: each pool, part, site and lot. All of them together speak without cause about{" "}
      {alarms.false_a_year === 1 ? "once" : `${figure(alarms.false_a_year, 1)} times`} a year.{" "}
      {lead && (
        <button type="button" className="text-accent underline" onClick={() => setOpen(true)}>
          change
        </button>
      )}
      {open && (
        <SettingsSheet
          title="Alarms"
          about="Seldom, and what has changed is found late; often, and most alarms are chance. It holds from today."
          found={settings}
          onClose={() => setOpen(false)}
        />
      )}
    </p>
  );
}

function Lines({ title, lines, chosen }: { title: string; lines: ChartLine[]; chosen: string | null }) {
  if (!lines.length) return null;
  return (
    <section aria-label={title} className="mt-4">
      <h2 className="border-b border-ink text-[1.1rem] font-semibold">{title}</h2>
      <ul>
        {lines.map((line) => (
          <li
            key={line.chart}
            aria-current={line.chart === chosen ? "true" : undefined}
            className={`border-b border-dotted border-rule py-1.5 ${line.chart === chosen ? "bg-pick" : ""}`}
          >
            <Link className="inline-block min-h-[25px] text-accent underline" to={alarmPath(line.chart)}>
              {line.title}
            </Link>
            <span className="block">
              {line.alarm && `${seenAgainst(line.alarm)}, since ${day(line.alarm.since)}`}
              {line.decision && (
                <span className="block text-soft">
                  {line.decision.verdict === "accepted" ? "Accepted" : "Put aside"} by{" "}
                  {line.decision.by ?? "somebody who is gone"}: {line.decision.reason}
                </span>
              )}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Lots({ alarms, chosen }: { alarms: Alarms; chosen: string | null }) {
  if (!alarms.lots.length) return null;
  const out = alarms.lots.filter((lot) => lot.stands_out).length;
  const rest = alarms.lots_in_all - alarms.lots.length;
  const alone = alarms.kinds.reduce((sum, kind) => sum + kind.lots_of_one, 0);
  return (
    <section aria-label="Lots" className="mt-5">
      <h2 className="text-[1.1rem] font-semibold">Lots</h2>
      <p className="text-[0.93rem] text-soft">
        {out === 0 ? "None stands out" : out === 1 ? "One stands out" : `${out} stand out`}; of those that do, at most
        one in ten does so by chance. {alone > 0 && `${plural(alone, "lot")} of a single unit tell nothing.`} A lot is
        told apart by the day it was made, or came where nobody knows that.
      </p>
      <table className="mt-1 w-full">
        <thead>
          <tr className="border-b border-ink align-bottom">
            <th scope="col" className="py-0.5">
              Lot
            </th>
            <th scope="col" className="text-right">
              Units
            </th>
            <th scope="col" className="text-right">
              Failed
            </th>
            <th scope="col" className="text-right">
              Expected
            </th>
            <th scope="col" className="text-right">
              By chance
            </th>
          </tr>
        </thead>
        <tbody>
          {alarms.lots.map((lot) => (
            <tr
              key={lot.chart}
              aria-current={lot.chart === chosen ? "true" : undefined}
              className={`border-b border-dotted border-rule ${lot.chart === chosen ? "bg-pick" : ""}`}
            >
              <th scope="row" className="py-0.5 font-normal">
                <Link className="inline-block min-h-[25px] text-accent underline" to={alarmPath(lot.chart)}>
                  <span className="code">{lot.part}</span>, {day(lot.made_on)}
                </Link>
                {lot.stands_out && <strong className="ml-2 text-short">stands out</strong>}
              </th>
              <td className="text-right">{figure(lot.units)}</td>
              <td className="text-right">{counted(lot.failed)}</td>
              <td className="text-right">{figure(lot.expected, 1)}</td>
              <td className="text-right">{chance(lot.chance)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {rest > 0 && (
        <p className="mt-1 text-[0.93rem] text-soft">{plural(rest, "other lot")}: as expected, or better.</p>
      )}
    </section>
  );
}

/** How likely so many failures are by chance alone, as people say it. */
function chance(value: number): string {
  if (value >= 0.095) return `${figure(value * 100)}%`;
  if (value >= 0.001) return `${figure(value * 100, 1)}%`;
  return `1 in ${figure(Math.round(1 / Math.max(value, 1e-12) / 100) * 100 || Math.round(1 / value))}`;
}
