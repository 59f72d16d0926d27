import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { PlanFigure } from "@/charts/PlanFigure";
import { figure, monthName } from "@/lib/format";
import { useKeys } from "@/lib/useKeys";
import { kindColour } from "@/lib/words";
import { Computing } from "@/ui/Computing";
import { FigureTable } from "@/ui/FigureTable";
import { Failed } from "@/ui/Notice";
import { type Change, usePairOfPlans } from "./scenarios.queries";

type PairOfPlans = Schemas["PairOfPlans"];

const pathOf = (side: PairOfPlans["planned"]) => side.played?.path ?? side.path;

/** One part: the plan as it stands, and below it what it would be, on the same months. */
export function PlanPair({ number, changes, site }: { number: string; changes: Change[]; site: string | null }) {
  const [tables, setTables] = useState(false);
  const found = usePairOfPlans(number, changes, site);
  useKeys({ t: () => setTables((before) => !before) });
  if (found.isError) return <Failed title="This part cannot be shown" detail={found.error.message} />;
  if (!found.data) return <Computing what="Planning both" queryKey={["scenario", "part", number, changes, site]} />;
  const pair = found.data;
  const sides = [
    ["As planned", pair.planned],
    ["What if", pair.scenario],
  ] as const;
  const months = pair.months.map((first, place) => ({
    name: monthName(first),
    from: pair.month_days[place] ?? 0,
    to: pair.month_days[place + 1] ?? 365,
  }));
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">{pair.name}</h2>
      <Link className="code text-accent underline" to={`/outlook/${pair.number}`}>
        {pair.number}
      </Link>
      {sides.map(([name, side]) => (
        <FigureTable
          key={name}
          title={`${name}: ${side.year === null ? "cannot be said" : `${figure(side.year, 1)} parts in 365 days`}`}
          aside={side.order_at === null ? "" : `order at ${side.order_at}`}
          shown={tables}
          onToggle={() => setTables(!tables)}
          columns={["Month", "expected", "planned as"]}
          rows={pair.months.map((first, place) => [
            `${monthName(first)} ${first.slice(0, 4)}`,
            figure(side.expected[place] ?? 0, 2),
            name.toLowerCase(),
          ])}
        >
          <PlanFigure
            planned={pathOf(side)}
            beside={pathOf(side === pair.planned ? pair.scenario : pair.planned)}
            without={side.path}
            arrivals={[]}
            months={months}
            floor={pair.floor}
            colour={kindColour(pair.kind)}
            title={`Stock of ${pair.name}, ${name.toLowerCase()}, as its rule would make it; the table holds the months`}
          />
        </FigureTable>
      ))}
      <p className="mt-2 text-[0.88rem] text-soft">
        Solid: median as each side's own rule would make it, band 5–95%. Dashed: without an order.
      </p>
    </article>
  );
}
