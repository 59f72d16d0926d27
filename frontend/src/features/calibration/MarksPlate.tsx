import { Link } from "react-router";
import { PlaceBars } from "@/charts/PlaceBars";
import { QuarterPairs } from "@/charts/QuarterPairs";
import { day, figure, percent } from "@/lib/format";
import { KIND_NAMES, kindColour } from "@/lib/words";
import { FigureTable } from "@/ui/FigureTable";
import type { Calibration, Marks } from "./calibration.queries";

export interface MarksPlateProps {
  found: Calibration;
  marks: Marks;
  tables: boolean;
  onTables: () => void;
}

/** One kind, or all: quarter by quarter, where counts fell in their forecasts, and the ones that lay furthest out. */
export function MarksPlate({ found, marks, tables, onTables }: MarksPlateProps) {
  const all = marks.name === "all";
  const name = all ? "All kinds" : (KIND_NAMES[marks.name] ?? marks.name);
  const colour = kindColour(marks.name);
  const quarters = byQuarter(found, marks.name);
  const tenth = 100 / Math.max(marks.histogram.length, 1);
  return (
    <article className="p-4">
      <h2 className="text-[1.75rem]">{name}</h2>
      {marks.plain && (
        <p className="text-soft">
          Of {marks.plain.forecasts} forecasts of 50 parts and more, {percent(marks.plain.inside)} lay in their closed
          90% interval.
        </p>
      )}
      <FigureTable
        title="Quarter by quarter"
        aside="bar: expected, disc: drawn; parts"
        shown={tables}
        onToggle={onTables}
        columns={["Quarter from", "expected", "drawn"]}
        rows={quarters.map((quarter) => [day(quarter.start), figure(quarter.expected, 1), figure(quarter.seen)])}
      >
        <QuarterPairs
          quarters={quarters.map((quarter) => ({ ...quarter, name: quarterName(quarter.start) }))}
          colour={colour}
          title={`Parts expected and drawn of ${name} by quarter; the table holds the figures`}
        />
      </FigureTable>
      <FigureTable
        title="Where counts fell in their forecasts"
        aside="dashed: right forecasts"
        shown={tables}
        onToggle={onTables}
        columns={["Tenth of the forecast", "share of the counts"]}
        rows={marks.histogram.map((share, place) => [
          `${figure(place * tenth)}–${figure((place + 1) * tenth)}%`,
          `${figure(share * 100, 1)}%`,
        ])}
      >
        <PlaceBars
          shares={marks.histogram}
          colour={colour}
          title={`Where the counts of ${name} fell in their forecasts, by tenths; the table holds the figures`}
        />
      </FigureTable>
      <Furthest found={found} kind={marks.name} />
    </article>
  );
}

function Furthest({ found, kind }: { found: Calibration; kind: string }) {
  const rows = found.worst.filter((held) => kind === "all" || held.kind === kind);
  if (rows.length === 0) return null;
  return (
    <section className="mt-4" aria-label="Furthest out">
      <h3 className="border-b border-rule pb-0.5 font-sans text-[1rem]">Furthest out of their forecasts</h3>
      <table className="w-full">
        <thead>
          <tr className="border-b border-ink">
            <th scope="col" className="py-1">
              Part
            </th>
            <th scope="col">Quarter from</th>
            <th scope="col" className="text-right">
              Expected
            </th>
            <th scope="col" className="text-right">
              Drawn
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((held) => (
            <tr key={`${held.part}-${held.start}`} className="border-b border-dotted border-rule">
              <th scope="row" className="py-0.5 font-normal">
                <Link className="code text-accent underline" to={`/outlook/${held.part}`}>
                  {held.part}
                </Link>
              </th>
              <td>{day(held.start)}</td>
              <td className="text-right">{figure(held.expected, 1)}</td>
              <td className="text-right font-semibold">{held.seen}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function byQuarter(found: Calibration, kind: string): { start: string; expected: number; seen: number }[] {
  const total = new Map<string, { start: string; expected: number; seen: number }>();
  for (const quarter of found.quarters) {
    if (kind !== "all" && quarter.kind !== kind) continue;
    const sum = total.get(quarter.start) ?? { start: quarter.start, expected: 0, seen: 0 };
    total.set(quarter.start, {
      start: quarter.start,
      expected: sum.expected + quarter.expected,
      seen: sum.seen + quarter.seen,
    });
  }
  return [...total.values()].sort((one, other) => one.start.localeCompare(other.start));
}

/** A quarter by its number and year, as "Q3 25". */
function quarterName(start: string): string {
  return `Q${Math.ceil(Number(start.slice(5, 7)) / 3)} ${start.slice(2, 4)}`;
}
