import { Link } from "react-router";
import { HazardFigure } from "@/charts/HazardFigure";
import { MonthBars } from "@/charts/MonthBars";
import { SurvivalFigure } from "@/charts/SurvivalFigure";
import { capital, figure, monthName, percent, perHundred, plural } from "@/lib/format";
import { AIR_NAMES, DUTY_NAMES, KIND_NAMES, kindColour } from "@/lib/words";
import { FigureTable } from "@/ui/FigureTable";
import { BesidePools } from "./BesidePools";
import { Groups, MOST_LINES } from "./Groups";
import type { KindRates } from "./rates.queries";

export interface KindPlateProps {
  rates: KindRates;
  tables: boolean;
  onTables: () => void;
}

/** How a kind dies: the school and its reason, survival, hazard over the ages in service, and the wave to come. */
export function KindPlate({ rates, tables, onTables }: KindPlateProps) {
  const colour = kindColour(rates.kind);
  const name = KIND_NAMES[rates.kind] ?? rates.kind;
  return (
    <article className="p-4">
      <h2 className="text-[1.75rem]">{name}</h2>
      <p className="text-[1.1rem]">
        <strong>{capital(rates.reason)}.</strong>
      </p>
      {rates.overall && (
        <p>
          {perHundred(rates.overall.rate)} failures per 100 in the coming year, {perHundred(rates.overall.low)} to{" "}
          {perHundred(rates.overall.high)}.
        </p>
      )}
      <p className="text-soft">
        {figure(rates.failures, 1)} failures in {figure(rates.exposure_years)} unit-years;{" "}
        <Link className="text-accent underline" to={`/ledger?finding=open&kind=${rates.kind}`}>
          {plural(rates.open_findings, "open finding")}
        </Link>{" "}
        counted at {percent(rates.open_share)}, the share of this kind that settled as failed.
      </p>
      {rates.found > 0 && (
        <p className="text-soft">
          {figure(rates.found)} of the failures {rates.found === 1 ? "was" : "were"} found at a check: counted between
          the day the part was last seen in order and the day of the check. The steps are Turnbull's.
        </p>
      )}
      <Paces rates={rates} />
      <Survival rates={rates} tables={tables} onTables={onTables} colour={colour} />
      <FigureTable
        title="Failure rate by age"
        aside="and how many units are at that age now"
        shown={tables}
        onToggle={onTables}
        columns={["Age, years", "failures per 100 a year", "units in service"]}
        rows={rates.served.map((bar) => [
          figure(bar.age, 1),
          perHundred(rates.curve.findLast((point) => point.age <= bar.age + 0.25)?.hazard ?? 0),
          figure(bar.units),
        ])}
      >
        <HazardFigure
          curve={rates.curve}
          served={rates.served}
          colour={colour}
          title={`Failure rate of ${name} by age, over the ages in service; the table holds the figures`}
          others={rates.groups
            .filter((group) => group.differs)
            .slice(0, MOST_LINES)
            .map((group) => ({ name: group.part, curve: group.curve }))}
        />
      </FigureTable>
      <Groups rates={rates} />
      <FigureTable
        title="First failures of what is in service now, by quarter"
        aside="expected"
        shown={tables}
        onToggle={onTables}
        columns={["Quarter from", "expected"]}
        rows={rates.wave.map((bar) => [
          `${monthName(bar.starts_on)} ${bar.starts_on.slice(0, 4)}`,
          figure(bar.expected, 1),
        ])}
      >
        <MonthBars
          months={rates.wave.map((bar) => ({
            name: monthName(bar.starts_on),
            expected: bar.expected,
            low: bar.expected,
            high: bar.expected,
          }))}
          colour={colour}
          title={`Expected first failures of ${name} by quarter; the table holds the figures`}
        />
      </FigureTable>
      <BesidePools rates={rates} />
    </article>
  );
}

const paceName = (pace: KindRates["paces"][number]): string =>
  (pace.factor === "duty" ? DUTY_NAMES : AIR_NAMES)[pace.of_class] ?? pace.of_class;

/** How fast parts age under each duty and in each air, and why where no difference is taken. */
function Paces({ rates }: { rates: KindRates }) {
  if (rates.paces.length === 0) return null;
  const used = rates.wear_out > 0;
  const told = rates.paces.filter((pace) => pace.taken);
  const alike = rates.paces.filter((pace) => !pace.taken);
  return (
    <section className="mt-3" aria-labelledby="paces">
      <h3 id="paces" className="text-[1.1rem]">
        How fast they age
      </h3>
      <p className="text-[0.93rem] text-soft">
        Beside office hours and office air, which count as 1. {!used && "Not used: one constant rate knows no ages."}
      </p>
      {alike.length > 0 && (
        <details className="text-[0.93rem]">
          <summary>
            {capital(alike.map(paceName).join(", "))} count as 1 too: what failed so far tells no difference.
          </summary>
          <ul className="pl-4 text-soft">
            {alike.map((pace) => (
              <li key={`${pace.factor}-${pace.of_class}`}>
                {paceName(pace)}: {pace.reason}
              </li>
            ))}
          </ul>
        </details>
      )}
      <table className="mt-1 w-full">
        <tbody>
          {told.map((pace) => (
            <tr key={`${pace.factor}-${pace.of_class}`} className="border-b border-dotted border-rule align-top">
              <th scope="row" className="py-0.5 pr-3 font-normal whitespace-nowrap">
                {paceName(pace)}
              </th>
              <td className="pr-3 text-right font-semibold whitespace-nowrap">{figure(pace.pace, 2)} ×</td>
              <td className="pr-3 whitespace-nowrap">
                {pace.low !== null && pace.high !== null && `${figure(pace.low, 2)} – ${figure(pace.high, 2)}`}
              </td>
              <td className="text-[0.93rem] text-soft">{pace.reason}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Survival({ rates, tables, onTables, colour }: KindPlateProps & { colour: string }) {
  return (
    <FigureTable
      title="Survival"
      aside={`from ${figure(rates.shown_from, 1)} years, at least 5 at risk`}
      shown={tables}
      onToggle={onTables}
      columns={["Age, years", "at risk", "survival", "5%", "95%"]}
      rows={rates.survival.map((step) => [
        figure(step.age, 2),
        figure(step.at_risk),
        percent(step.survival),
        step.low === null ? "none" : percent(step.low),
        step.high === null ? "none" : percent(step.high),
      ])}
    >
      <SurvivalFigure
        steps={rates.survival}
        from={rates.shown_from}
        curve={rates.curve}
        colour={colour}
        title={`Survival of ${KIND_NAMES[rates.kind]} by age, as the log has it and as fitted; the table holds the figures`}
      />
      <p className="text-[0.88rem] text-soft">
        Steps and band: the log, with what was old when it began counted from then (90%). Dashed: the fitted life of a
        new part of this kind at the mix of duties and air it had, with how far it is in doubt (grey, 90%).
      </p>
    </FigureTable>
  );
}
