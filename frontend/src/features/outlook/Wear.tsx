import { useState } from "react";
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
          columns={["Machine", "readings", "last", "crosses", "95%"]}
          rows={found.units.map((unit) => [
            unit.tag,
            unit.readings.length,
            percent(unit.readings.at(-1)?.share ?? 0),
            unit.crosses_on ? day(unit.crosses_on) : unit.reason,
            unit.low ? `${day(unit.low)} – ${unit.high ? day(unit.high) : "no end"}` : "",
          ])}
        >
          <WearLines
            lines={found.units.map((unit) => ({
              name: unit.tag,
              points: unit.readings.map((reading) => ({
                day: daysBetween(found.as_of, reading.day),
                share: reading.share,
              })),
              crosses: unit.crosses_on ? daysBetween(found.as_of, unit.crosses_on) : null,
            }))}
            threshold={found.threshold}
            colour={kindColour(plate.line.kind)}
            title={`Readings of ${plural(found.units.length, read.one)} by day, and when they reach ${percent(found.threshold)}; the table holds the figures`}
          />
          <p className="text-[0.93rem]">{sentence(found, read.one)}</p>
          <p className="text-[0.88rem] text-soft">
            {read.drawn}, a line for each {read.one}; discs: where its line reaches the threshold.
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
  if (found.usable === 0) return `No ${one}'s readings tell a trend yet: their ages speak.${others}`;
  if (found.by_readings === null || found.by_age === null) return `${plural(found.usable, one)} with a trend.${others}`;
  const followed = `${plural(found.usable, one)} with a trend: ${figure(found.by_readings, 1)} are expected to be`;
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
