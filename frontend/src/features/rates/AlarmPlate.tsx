import { useState } from "react";
import { Link, useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { WatchFigure } from "@/charts/WatchFigure";
import { counted, day, figure, monthName, percent, plural } from "@/lib/format";
import { useKeys } from "@/lib/useKeys";
import { FINDING_NAMES, kindColour } from "@/lib/words";
import { AskSheet } from "@/shared/AskSheet";
import { Button } from "@/ui/Button";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { TextField } from "@/ui/Field";
import { FigureTable } from "@/ui/FigureTable";
import { type ChartPlate, useChart, useDecideAlarm, useWithdrawDecision, useWouldChange } from "./alarms.queries";
import { seenAgainst } from "./alarmWords";

type Verdict = Schemas["DecideIn"]["verdict"];

/** One chart: what it says, month by month, what accepting would change, and where the units of a lot are. */
export function AlarmPlate({ chart }: { chart: string }) {
  const found = useChart(chart);
  const [tables, setTables] = useState(false);
  useKeys({ t: () => setTables((before) => !before) });
  if (found.isError) return <FailedToRead title="No chart" query={found} />;
  if (!found.data) return <Computing what="Reading the chart" queryKey={["alarms", "chart", chart]} />;
  const plate = found.data;
  const { line } = plate;
  const first = plate.months.findIndex((month) => month.expected > 0);
  const months = plate.months.slice(Math.max(first, 0));
  const title = `${line.title}: failures of each month beside what was expected, and how far they have run ahead`;
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">{line.title}</h2>
      <Said plate={plate} />
      <FigureTable
        title="Failures a month"
        aside="bars: failed; line: expected"
        shown={tables}
        onToggle={() => setTables(!tables)}
        columns={["Month", "Failed", "Expected", "Runs ahead by"]}
        rows={months.map((month) => [
          `${monthName(month.starts_on)} ${month.starts_on.slice(0, 4)}`,
          counted(month.failed),
          figure(month.expected, 2),
          figure(month.height, 2),
        ])}
      >
        <WatchFigure
          months={months}
          limit={plate.limit}
          spoke={plate.alarms.map((alarm) => alarm.spoke_in)}
          since={line.alarm?.since ?? null}
          colour={kindColour(line.kind)}
          title={title}
        />
      </FigureTable>
      <p className="mt-1 text-[0.93rem] text-soft">
        Expected at the units’ own ages, by what the rest of the kind’s log says
        {line.scope === "lot" ? ", this lot left out" : " and by its own record before each month"}; known to{" "}
        {percent(plate.doubt)}. It looks for failures {figure(plate.ratio)} times as frequent: each failure adds 0.69,
        what was expected takes away as much as itself; it speaks at {figure(plate.limit, 1)}, which allows for what is
        not known, and begins anew.
        {line.scope === "lot" && " A lot also speaks once so many failures are too unlikely to be chance."}
      </p>
      {line.alarm && !line.decision && <WouldChange chart={chart} key={chart} />}
      {line.scope === "lot" && <UnitsOfLot plate={plate} />}
    </article>
  );
}

function Said({ plate }: { plate: ChartPlate }) {
  const { line } = plate;
  const lead = useOutletContext<Schemas["SessionState"]>().user?.role === "lead";
  const [asking, setAsking] = useState<Verdict | null>(null);
  const withdraw = useWithdrawDecision();
  const open = line.alarm !== null && line.decision === null;
  return (
    <>
      <p className="mt-1 max-w-[62ch] font-serif text-[1.2rem] leading-snug">
        {line.alarm ? (
          <>
            <strong className={open ? "text-short" : ""}>{seenAgainst(line.alarm)}</strong>, since{" "}
            {day(line.alarm.since)}; it spoke in {monthName(line.alarm.spoke_in)} {line.alarm.spoke_in.slice(0, 4)}.
          </>
        ) : (
          <>
            {counted(line.failed)} of {plural(line.units, "unit")} failed, {figure(line.expected, 1)} were expected: no
            alarm.
          </>
        )}
      </p>
      {line.decision && (
        <p className="mt-1">
          <strong>{line.decision.verdict === "accepted" ? "Accepted" : "Put aside"}</strong> by{" "}
          {line.decision.by ?? "somebody who is gone"} on {day(line.decision.on.slice(0, 10))}: {line.decision.reason}
          {lead && (
            <Button look="quiet" disabled={withdraw.isPending} onClick={() => withdraw.mutate(line.decision?.id ?? 0)}>
              take it back
            </Button>
          )}
        </p>
      )}
      {open && lead && (
        <p className="mt-2 flex flex-wrap gap-3">
          <Button look="main" onClick={() => setAsking("accepted")}>
            {line.scope === "lot" ? "Accept: a pool of its own" : "Accept: leave out what came before"}
          </Button>
          <Button onClick={() => setAsking("aside")}>Put aside</Button>
        </p>
      )}
      {open && !lead && <p className="mt-1 text-soft">A lead decides about it.</p>}
      {asking && <DecideSheet plate={plate} verdict={asking} onClose={() => setAsking(null)} />}
    </>
  );
}

interface DecideSheetProps {
  plate: ChartPlate;
  verdict: Verdict;
  onClose: () => void;
}

function DecideSheet({ plate, verdict, onClose }: DecideSheetProps) {
  const [reason, setReason] = useState("");
  const decide = useDecideAlarm();
  const { line } = plate;
  const accepted =
    line.scope === "lot"
      ? "The lot gets a rate of its own from now on, and its parts no longer make the others look worse."
      : `What was seen before ${line.alarm ? day(line.alarm.since) : "then"} is left out of the rates of these parts: they follow what is happening now, and are less sure.`;
  return (
    <AskSheet
      title={verdict === "accepted" ? "Accept the alarm" : "Put the alarm aside"}
      about={
        verdict === "accepted"
          ? `${accepted} Orders follow. It can be taken back.`
          : "The rates stay as they are. A new alarm of the same chart opens it again."
      }
      label={verdict === "accepted" ? "Accept it" : "Put it aside"}
      sending={decide}
      fields={["reason"]}
      onSend={() =>
        decide.mutate({ chart: line.chart, verdict, reason, failed: line.alarm?.observed ?? 0 }, { onSuccess: onClose })
      }
      onClose={onClose}
    >
      {(problem) => (
        <TextField
          label="Why"
          hint="What is known of it, such as what the supplier says."
          value={reason}
          fault={problem?.at("reason") ?? undefined}
          onChange={(event) => setReason(event.target.value)}
        />
      )}
    </AskSheet>
  );
}

function WouldChange({ chart }: { chart: string }) {
  const found = useWouldChange(chart);
  return (
    <section aria-label="What accepting would change" className="mt-4">
      <h3 className="border-b border-rule font-semibold">What accepting would change</h3>
      {found.isError && <p className="text-soft">It cannot be said: {found.error.message}.</p>}
      {!found.data && !found.isError && (
        <Computing what="Working out orders with it accepted" queryKey={["alarms", "would", chart]} />
      )}
      {found.data && (
        <table className="mt-1 w-full">
          <thead>
            <tr className="border-b border-ink">
              <th scope="col" className="py-0.5">
                Part
              </th>
              <th scope="col" className="text-right">
                Wanted a year
              </th>
              <th scope="col" className="text-right">
                Order at
              </th>
              <th scope="col" className="text-right">
                To order now
              </th>
            </tr>
          </thead>
          <tbody>
            {found.data.parts.map((part) => (
              <tr key={part.number} className="border-b border-dotted border-rule">
                <th scope="row" className="py-0.5 font-normal">
                  <Link className="code inline-block min-h-[25px] text-accent underline" to={`/outlook/${part.number}`}>
                    {part.number}
                  </Link>
                </th>
                <td className="text-right">{fromTo(part.year_before, part.year_after, 1)}</td>
                <td className="text-right">{fromTo(part.order_at_before, part.order_at_after)}</td>
                <td className="text-right">{fromTo(part.order_now_before, part.order_now_after)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function fromTo(before: number | null, after: number | null, digits = 0): string {
  const said = (value: number | null): string => (value === null ? "cannot say" : figure(value, digits));
  return said(before) === said(after) ? said(before) : `${said(before)} → ${said(after)}`;
}

const KNOWN_BY: Record<string, string> = {
  serial: "its serial arrived with the lot",
  only_lot: "no other lot lay there",
  first_out: "by the rule that the oldest goes first",
};

function UnitsOfLot({ plate }: { plate: ChartPlate }) {
  const out = plate.units.filter((unit) => unit.removed_on !== null);
  const serving = plate.units.length - out.length;
  return (
    <section aria-label="Units of the lot" className="mt-4">
      <h3 className="border-b border-rule font-semibold">
        {plural(serving, "unit")} in service, {figure(out.length)} taken out
      </h3>
      {plate.came_with.length > 0 && (
        <p className="text-soft">
          Came with {plate.came_with.map((one) => `${one.order_number} on ${day(one.received_on)}`).join(", ")}.
        </p>
      )}
      {plate.units_in_all > plate.units.length && (
        <p className="text-soft">
          The first {figure(plate.units.length)} of {figure(plate.units_in_all)}.
        </p>
      )}
      <table className="mt-1 w-full">
        <thead>
          <tr className="border-b border-ink">
            <th scope="col" className="py-0.5">
              Machine
            </th>
            <th scope="col">Where</th>
            <th scope="col">Fitted</th>
            <th scope="col">What became of it</th>
          </tr>
        </thead>
        <tbody>
          {plate.units.map((unit) => (
            <tr
              key={`${unit.tag}|${unit.position}|${unit.fitted_on}`}
              className="border-b border-dotted border-rule align-top"
            >
              <th scope="row" className="py-0.5 font-normal">
                <Link className="code inline-block min-h-[25px] text-accent underline" to={`/machines/${unit.tag}`}>
                  {unit.tag}
                </Link>
              </th>
              <td>
                {unit.site ?? "nowhere on record"}
                <span className="block text-[0.93rem] text-soft">{unit.position}</span>
              </td>
              <td>
                {day(unit.fitted_on)}
                {unit.lot_known_by && (
                  <span className="block text-[0.93rem] text-soft">{KNOWN_BY[unit.lot_known_by]}</span>
                )}
              </td>
              <td>
                {unit.removed_on === null ? (
                  "in service"
                ) : unit.incident_id === null ? (
                  `out ${day(unit.removed_on)}`
                ) : (
                  <Link className="text-accent underline" to={`/ledger/${unit.incident_id}`}>
                    {FINDING_NAMES[unit.finding ?? ""] ?? "out"}, {day(unit.removed_on)}
                  </Link>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
