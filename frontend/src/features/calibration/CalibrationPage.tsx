import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { figure, percent } from "@/lib/format";
import { trust } from "@/lib/trust";
import { useKeys } from "@/lib/useKeys";
import { useWalk } from "@/lib/useWalk";
import { KIND_NAMES } from "@/lib/words";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { type Calibration, type Marks, useCalibration } from "./calibration.queries";
import { MarksPlate } from "./MarksPlate";

export const nameOf = (marks: string): string => (marks === "all" ? "All kinds" : (KIND_NAMES[marks] ?? marks));

/** How well the forecasts have done: every past quarter forecast from what was recorded by then, and held against what was drawn. */
export default function CalibrationPage() {
  const { kind = "all" } = useParams();
  const [tables, setTables] = useState(false);
  const found = useCalibration();
  const navigate = useNavigate();
  const open = (name: string): void => void navigate(`/rates/calibration/${name}`);
  useWalk(found.data?.marks.map((marks) => marks.name) ?? [], kind, open);
  useKeys({ t: () => setTables((before) => !before) });
  if (found.isError) {
    return <FailedToRead title="No backtest" query={found} />;
  }
  if (!found.data) return <Computing what="Forecasting past quarters" queryKey={["calibration"]} />;
  const chosen = found.data.marks.find((marks) => marks.name === kind) ?? found.data.marks[0];
  return (
    <Spread
      name="calibration"
      share={55}
      least={40}
      leftLabel="Marks"
      rightLabel="Chosen kind"
      left={
        <div className="p-4">
          <h1 className="text-[1.75rem]">How well it has done</h1>
          <Said found={found.data} />
          <MarksTable marks={found.data.marks} chosen={chosen?.name} />
          <p className="mt-3 text-[0.93rem] text-soft">
            Each quarter is forecast for each part from what had been recorded by its first day, and held against what
            was then drawn. A count is spread over its jump before it is looked up, so that a right forecast covers 50
            and 90% even where counts are small. Score: the continuous ranked probability score, in parts; less is
            better. Rivals: last year's count, and the fixed share of the fleet. Retirements and swaps planned by then
            are counted; machines bought during a quarter are left out of it.
          </p>
          <p className="mt-2">
            <Link className="text-accent underline" to="/rates">
              Back to the rates
            </Link>
          </p>
        </div>
      }
      right={
        chosen ? (
          <MarksPlate found={found.data} marks={chosen} tables={tables} onTables={() => setTables(!tables)} />
        ) : (
          <Nothing>A quarter can be held against the log once the log is a year and a quarter old.</Nothing>
        )
      }
    />
  );
}

function Said({ found }: { found: Calibration }) {
  const all = found.marks.find((marks) => marks.name === "all");
  const words = trust(found);
  if (!all || !words) return null;
  const off = all.expected > 0 ? all.seen / all.expected - 1 : 0;
  const better = 1 - all.crps / Math.min(all.last_year, all.fixed_share);
  return (
    <p className="mt-1 max-w-[62ch] font-serif text-[1.2rem] leading-snug">
      <strong>{words}</strong>, {percent(all.covered_half)} within their 50% one. Drawn: {figure(all.seen)} parts where{" "}
      {figure(all.expected)} were expected, {off < 0 ? "" : "+"}
      {percent(off)}. The score is{" "}
      <strong>
        {percent(Math.abs(better))} {better >= 0 ? "better" : "worse"}
      </strong>{" "}
      than the better of two simple rivals.
    </p>
  );
}

function MarksTable({ marks, chosen }: { marks: Marks[]; chosen: string | undefined }) {
  const head = ["Forecasts", "in 50%", "in 90%", "Expected", "Drawn", "Score", "last year's", "fixed share's"];
  return (
    <table className="mt-3 w-full">
      <thead>
        <tr className="border-b border-ink align-bottom">
          <th scope="col" className="py-1">
            Kind
          </th>
          {head.map((name) => (
            <th key={name} scope="col" className="pl-2 text-right">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {marks.map((row) => (
          <tr
            key={row.name}
            aria-current={row.name === chosen ? "true" : undefined}
            className={`border-b border-dotted border-rule ${row.name === chosen ? "bg-pick" : ""}`}
          >
            <th scope="row" className="py-1">
              <Link className="text-accent underline" to={`/rates/calibration/${row.name}`}>
                {nameOf(row.name)}
              </Link>
            </th>
            <td className="pl-2 text-right">{row.forecasts}</td>
            <td className="pl-2 text-right">{percent(row.covered_half)}</td>
            <td className="pl-2 text-right font-semibold">{percent(row.covered_most)}</td>
            <td className="pl-2 text-right">{figure(row.expected)}</td>
            <td className="pl-2 text-right">{figure(row.seen)}</td>
            <td className="pl-2 text-right font-semibold">{figure(row.crps, 2)}</td>
            <td className="pl-2 text-right">{figure(row.last_year, 2)}</td>
            <td className="pl-2 text-right">{figure(row.fixed_share, 2)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
