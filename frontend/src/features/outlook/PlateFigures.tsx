import { MonthBars } from "@/charts/MonthBars";
import { PlanFigure } from "@/charts/PlanFigure";
import { day, figure, monthName } from "@/lib/format";
import { kindColour, STREAM_NAMES } from "@/lib/words";
import { FigureTable } from "@/ui/FigureTable";
import { ofHundred } from "./asks";
import type { Plate } from "./outlook.queries";
import { Schools } from "./Schools";
import { Since } from "./Since";

const STREAM_ORDER = ["wear_out", "damage", "no_fault_draw", "dead_on_arrival", "planned"] as const;

export interface PlateFiguresProps {
  plate: Plate;
  tables: boolean;
  onTables: () => void;
}

/** The coming year as the rule, followed, would make it: played many times from where the shelves stand. */
function Year({ plate, tables, onTables }: PlateFiguresProps) {
  const played = plate.played;
  const path = played?.path ?? plate.line.path;
  return (
    <FigureTable
      title="On the shelves"
      aside={played ? `as the rule, followed, would make it; ${played.runs} years played` : "without orders, 5–95%"}
      shown={tables}
      onToggle={onTables}
      columns={["By", "5%", "median", "95%", "median without orders"]}
      rows={plate.line.path.map((point, place) => {
        const at = path[place] ?? point;
        const end = place === 0 ? plate.as_of : (plate.steps[place - 1]?.last_on ?? plate.as_of);
        return [day(end), at.low, at.median, at.high, point.median];
      })}
    >
      <PlanFigure
        planned={path}
        without={plate.line.path}
        arrivals={plate.line.arrivals}
        months={plate.steps.map((step) => ({ name: monthName(step.first_on), from: step.from_day, to: step.to_day }))}
        floor={Math.max(plate.line.floor, 0)}
        colour={kindColour(plate.line.kind)}
        title={`Stock of ${plate.line.name} over twelve months as the rule would make it; the table holds the figures`}
      />
      <p className="text-[0.88rem] text-soft">
        Solid: median with 5–95% band. <span className="text-short">Dashed: without an order.</span>
      </p>
      {played && (
        <p className="mt-1 text-[0.95rem]">
          {played.fill ? `${ofHundred(played.fill.value)} requests met at once` : "Nothing was asked for"}
          {played.fill && played.fill.error > 0.005 && ` (± ${Math.round(played.fill.error * 100)})`},{" "}
          {figure(played.orders.value, 1)} orders, {figure(played.parts.median)} parts ({figure(played.parts.low)} to{" "}
          {figure(played.parts.high)}) for {figure(played.spent.median)} ({figure(played.spent.low)} to{" "}
          {figure(played.spent.high)}) in the year, {figure(played.waiting.value, 1)} machine-days waited.
        </p>
      )}
    </FigureTable>
  );
}

export function PlateFigures({ plate, tables, onTables }: PlateFiguresProps) {
  const colour = kindColour(plate.line.kind);
  if (plate.months.length === 0 || !plate.streams) return null;
  const streams = plate.streams;
  const total = STREAM_ORDER.reduce((sum, name) => sum + streams[name], 0);
  const most = Math.max(...plate.by_model.map((share) => share.expected), 0.01);
  return (
    <>
      <Year plate={plate} tables={tables} onTables={onTables} />
      <FigureTable
        title="Parts wanted a month"
        aside="mean, 5–95%"
        shown={tables}
        onToggle={onTables}
        columns={["Month", "expected", "5%", "median", "95%"]}
        rows={plate.months.map((month) => [
          `${monthName(month.first_on)} ${month.first_on.slice(0, 4)}`,
          figure(month.expected, 2),
          month.low,
          month.median,
          month.high,
        ])}
      >
        <MonthBars
          months={plate.months.map((month) => ({ ...month, name: monthName(month.first_on) }))}
          colour={colour}
          title={`Parts wanted a month of ${plate.line.name}; the table holds the figures`}
        />
      </FigureTable>
      <section className="mt-4" aria-label="Demand of the coming year">
        <h3 className="flex items-baseline justify-between border-b border-rule pb-0.5 font-sans text-[1rem]">
          Demand in 365 days <span className="font-normal text-[0.93rem] text-soft">by stream</span>
        </h3>
        <table className="w-full">
          <tbody>
            {STREAM_ORDER.map((name) => (
              <tr key={name} className="border-b border-dotted border-rule">
                <th scope="row" className="py-0.5 font-normal">
                  {STREAM_NAMES[name]}
                </th>
                <td className="text-right">{figure(streams[name], 1)}</td>
              </tr>
            ))}
            <tr className="border-t border-b-4 border-double border-ink">
              <th scope="row" className="py-0.5">
                Parts wanted
              </th>
              <td className="text-right font-semibold">{figure(total, 1)}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <Schools plate={plate} colour={colour} />
      <Since kind={plate.line.kind} number={plate.line.number} />
      <section className="mt-4" aria-label="Demand by model">
        <h3 className="flex items-baseline justify-between border-b border-rule pb-0.5 font-sans text-[1rem]">
          Where it comes from <span className="font-normal text-[0.93rem] text-soft">parts in 365 days, by model</span>
        </h3>
        <table className="w-full">
          <tbody>
            {plate.by_model.map((share) => (
              <tr key={share.model_id}>
                <th scope="row" className="w-[38%] truncate py-0.5 font-normal">
                  {share.model}
                </th>
                <td aria-hidden="true">
                  <span
                    className="block h-[9px] opacity-60"
                    style={{ width: `${(share.expected / most) * 100}%`, background: colour }}
                  />
                </td>
                <td className="w-[52px] text-right font-semibold">{figure(share.expected, 1)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </>
  );
}
