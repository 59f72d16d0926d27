import { useState } from "react";
import { Link } from "react-router";
import { FadeFigure } from "@/charts/FadeFigure";
import { age, ageWithin, day, daysBetween, figure, monthName, percent, plural } from "@/lib/format";
import { useKeys } from "@/lib/useKeys";
import { kindColour } from "@/lib/words";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { FigureTable } from "@/ui/FigureTable";
import { type PartFade, useFade, usePartFade } from "./fade.queries";

type Unit = PartFade["units"][number];

const DAYS_A_YEAR = 365.25;
const SHOWN = 60;
const month = (iso: string): string => `${monthName(iso)} ${iso.slice(0, 4)}`;

/** A part group: every unit's readings by age, the band of its curves, the knee; and who crosses when. */
export function FadePlate({ number }: { number: string }) {
  const found = usePartFade(number);
  const kind = useFade().data?.parts.find((part) => part.number === number)?.kind ?? "battery";
  const [tables, setTables] = useState(false);
  useKeys({ t: () => setTables((before) => !before) });
  if (found.isError) return <FailedToRead title="No fade" query={found} />;
  if (!found.data) return <Computing what="Reading how it fades" queryKey={["wear", number, null]} />;
  const fade = found.data;
  const dated = fade.units.filter((unit) => unit.age_span === 0);
  const lines = dated.map((unit) => ({
    name: unit.tag,
    points: unit.readings.map((reading) => ({
      years: Math.max(unit.age_days + daysBetween(fade.as_of, reading.day), 0) / DAYS_A_YEAR,
      share: reading.share,
    })),
  }));
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">
        <Link className="code text-accent underline" to={`/outlook/${encodeURIComponent(number)}`}>
          {number}
        </Link>
      </h2>
      <Said fade={fade} />
      <FigureTable
        title="Share of the design capacity by age"
        aside={`worn at ${percent(fade.threshold)}`}
        shown={tables}
        onToggle={() => setTables(!tables)}
        columns={["Age, years", "5% of units", "half", "95%"]}
        rows={(fade.curves?.band ?? [])
          .filter((_, place) => place % 2 === 0)
          .map((point) => [figure(point.years, 1), percent(point.low), percent(point.middle), percent(point.high)])}
      >
        <FadeFigure
          lines={lines}
          band={fade.curves?.band ?? []}
          threshold={fade.threshold}
          knee={fade.curves?.bends_after ?? null}
          colour={kindColour(kind)}
          title={`Readings of ${plural(lines.length, "unit")} of ${number} by age, the band of its curves and ${percent(fade.threshold)}; the table holds the band`}
        />
      </FigureTable>
      {fade.units.length > dated.length && (
        <p className="text-[0.93rem] text-soft">
          Of {plural(fade.units.length - dated.length, "unit")} nobody knows the age: the curves allow for it, the
          figure leaves them out.
        </p>
      )}
      <Units units={fade.units} curves={fade.curves !== null} />
    </article>
  );
}

function Said({ fade }: { fade: PartFade }) {
  const { curves } = fade;
  if (!curves) {
    return (
      <p className="mt-1 max-w-[62ch] font-serif text-[1.2rem] leading-snug">
        No unit has three readings yet, nor has any of its kind that it could lean on:{" "}
        <strong>their ages speak.</strong>
      </p>
    );
  }
  const bends = curves.bends_after;
  return (
    <>
      <p className="mt-1 max-w-[62ch] font-serif text-[1.2rem] leading-snug">
        <strong>{figure(fade.by_readings ?? 0, 1)}</strong> of {plural(fade.usable, "unit")} are expected to be{" "}
        {fade.beside ? "spent" : "worn"} within a year; {fade.beside ? "beside" : "by their ages it would be"}{" "}
        {figure(fade.by_age ?? 0, 1)}
        {fade.beside && " that fail of other causes"}.
      </p>
      <p className="text-soft">
        A straight fall carries {percent(curves.straight)}, one that is faster below a level {percent(curves.level)},
        one that is faster after a time of each unit’s own {percent(curves.knee)}.{" "}
        {bends && curves.steeper !== null
          ? `Where they bend, half do so by ${figure(bends[1] ?? 0, 1)} years (${figure(bends[0] ?? 0, 1)} to ${figure(bends[2] ?? 0, 1)}), to ${figure(curves.steeper, 1)} times the pace.`
          : "Hardly any bends."}{" "}
        {curves.together && "Its own readings are few: it is taken together with other parts of its kind."} A knee that
        hardly any unit has reached cannot be seen.
      </p>
    </>
  );
}

function Units({ units, curves }: { units: Unit[]; curves: boolean }) {
  const [all, setAll] = useState(false);
  const rows = all ? units : units.slice(0, SHOWN);
  return (
    <section aria-label="Units" className="mt-4">
      <h3 className="border-b border-rule font-semibold">Who crosses when</h3>
      <table className="mt-1 w-full">
        <thead>
          <tr className="border-b border-ink align-bottom">
            <th scope="col" className="py-0.5">
              Machine
            </th>
            <th scope="col">Age</th>
            <th scope="col" className="text-right">
              Last
            </th>
            <th scope="col" className="pl-4">
              With its group
            </th>
            <th scope="col">By its own line alone</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((unit) => (
            <tr key={unit.tag} className="border-b border-dotted border-rule align-top">
              <th scope="row" className="py-0.5 font-normal">
                <Link className="code inline-block min-h-[25px] text-accent underline" to={`/machines/${unit.tag}`}>
                  {unit.tag}
                </Link>
              </th>
              <td>{unit.age_span > 0 ? ageWithin(unit.age_days, unit.age_span) : age(unit.age_days)}</td>
              <td className="text-right">
                {percent(unit.readings.at(-1)?.share ?? 0)}
                <span className="block text-[0.93rem] text-soft">{plural(unit.readings.length, "reading")}</span>
              </td>
              <td className="pl-4">
                <Crosses unit={unit} curves={curves} />
              </td>
              <td>
                {unit.crosses_on ? (
                  <>
                    {month(unit.crosses_on)}
                    <span className="block text-[0.93rem] text-soft">
                      {unit.low ? month(unit.low) : ""} – {unit.high ? month(unit.high) : "no end"}
                    </span>
                  </>
                ) : (
                  <span className="text-[0.93rem] text-soft">{unit.reason}</span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {units.length > SHOWN && !all && (
        <button type="button" className="mt-2 text-accent underline" onClick={() => setAll(true)}>
          the other {figure(units.length - SHOWN)}
        </button>
      )}
      <p className="mt-2 text-[0.93rem] text-soft">
        With its group: half a chance by that month, 5 to 95% below it. By its own line alone: least squares through its
        readings, with Fieller’s limits of 95%, which can be checked by hand.
      </p>
    </section>
  );
}

function Crosses({ unit, curves }: { unit: Unit; curves: boolean }) {
  if (unit.due) return <strong className="text-short">is below it today</strong>;
  if (!unit.fades)
    return <span className="text-[0.93rem] text-soft">{curves ? "too few readings" : "its age speaks"}</span>;
  const { low, middle, high } = unit.fades;
  return (
    <>
      <strong>{middle ? month(middle) : "later than can be named"}</strong>
      <span className="block text-[0.93rem] text-soft">
        {low ? day(low) : "later"} – {high ? day(high) : "no end"}
      </span>
    </>
  );
}
