import { useState } from "react";
import { Link } from "react-router";
import { WearLines } from "@/charts/WearLines";
import { day, daysBetween, figure, percent, plural } from "@/lib/format";
import { useSite } from "@/lib/useSite";
import { kindColour } from "@/lib/words";
import { Button } from "@/ui/Button";
import { FigureTable } from "@/ui/FigureTable";
import { type Plate, usePartWear, type Wear as WearOf } from "./outlook.queries";
import { ReadingSheet } from "./ReadingSheet";

export interface WearProps {
  plate: Plate;
  canWrite: boolean;
  tables: boolean;
  onTables: () => void;
}

/** What is read of a kind's parts, and what they are called. */
const READ: Record<string, { one: string; worn: string; drawn: string }> = {
  battery: { one: "pack", worn: "worn at", drawn: "Full over design capacity" },
  ssd: { one: "drive", worn: "spent at", drawn: "Life left" },
};

/** Parts whose wear is read: when each reaches the threshold, and what that changes in the forecast beside their ages. */
export function Wear({ plate, canWrite, tables, onTables }: WearProps) {
  const [site] = useSite();
  const [adding, setAdding] = useState(false);
  const read = READ[plate.line.kind];
  const wear = usePartWear(plate.line.number, site, read !== undefined);
  if (!read || !wear.data) return null;
  const found = wear.data;
  return (
    <section aria-label="Followed by readings">
      {found.units.length > 0 && (
        <FigureTable
          title="Followed by readings"
          aside={`${read.worn} ${percent(found.threshold)}`}
          shown={tables}
          onToggle={onTables}
          columns={["Machine", "readings", "last", "half by", "5 to 95%", "its own line"]}
          rows={found.units.map((unit) => [
            unit.tag,
            unit.readings.length,
            percent(unit.readings.at(-1)?.share ?? 0),
            unit.due ? "below it today" : unit.fades?.middle ? day(unit.fades.middle) : "its age speaks",
            unit.fades?.low && !unit.due
              ? `${day(unit.fades.low)} – ${unit.fades.high ? day(unit.fades.high) : "no end"}`
              : "",
            unit.crosses_on ? day(unit.crosses_on) : unit.reason,
          ])}
        >
          <WearLines
            lines={found.units.map((unit) => ({
              name: unit.tag,
              points: unit.readings.map((reading) => ({
                day: daysBetween(found.as_of, reading.day),
                share: reading.share,
              })),
              crosses: unit.fades?.middle ? daysBetween(found.as_of, unit.fades.middle) : null,
            }))}
            threshold={found.threshold}
            colour={kindColour(plate.line.kind)}
            title={`Readings of ${plural(found.units.length, read.one)} by day, and when they reach ${percent(found.threshold)}; the table holds the figures`}
          />
          <p className="text-[0.93rem]">{sentence(found, read.one)}</p>
          <p className="text-[0.88rem] text-soft">
            {read.drawn}, a line for each {read.one}; discs: by when half a chance has it at the threshold, by the
            curves of its part.{" "}
            <Link className="text-accent underline" to={`/rates/fade/${encodeURIComponent(plate.line.number)}`}>
              How it fades
            </Link>
          </p>
        </FigureTable>
      )}
      {canWrite && (
        <Button className="mt-2" onClick={() => setAdding(true)}>
          Write a reading down
        </Button>
      )}
      {adding && <ReadingSheet kind={plate.line.kind} asOf={found.as_of} onClose={() => setAdding(false)} />}
    </section>
  );
}

function sentence(found: WearOf, one: string): string {
  const rest = found.units.length - found.usable;
  const others = rest === 0 ? "" : ` For ${rest} more the readings say too little yet, and their age speaks.`;
  if (found.usable === 0) return `No ${one} is read often enough yet: their ages speak.`;
  if (found.by_readings === null || found.by_age === null)
    return `Readings speak for ${plural(found.usable, one)}.${others}`;
  const followed = `Of ${plural(found.usable, one)} that readings speak for ${figure(found.by_readings, 1)} are expected to be`;
  if (found.beside)
    return (
      `${followed} spent within a year, beside the ${figure(found.by_age, 1)} expected to fail of other causes. ` +
      `The forecast counts both.${others}`
    );
  return (
    `${followed} worn within a year, where without readings it would be ${figure(found.by_age, 1)}. ` +
    `The forecast takes the readings.${others}`
  );
}
