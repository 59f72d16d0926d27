import { useState } from "react";
import { WearLines } from "@/charts/WearLines";
import { day, daysBetween, figure, moment, money, percent, plural } from "@/lib/format";
import { HELD_NAMES, kindColour } from "@/lib/words";
import { FigureTable } from "@/ui/FigureTable";
import type { Machine } from "./machine.queries";

/** What a machine said of itself last, and what of it is on record otherwise. */
export function MachineSaid({ machine }: { machine: Machine }) {
  const said = machine.said;
  if (!said) return null;
  return (
    <section className="mt-4" aria-label="What it said last">
      <h2 className="font-sans text-[1rem] font-semibold">It said on {moment(said.at)}</h2>
      <p className="text-soft">{said.says.join("; ") || "nothing that is read"}</p>
      {said.missed.length > 0 && <p className="text-thin">Not understood: {said.missed.join("; ")}</p>}
      {said.asked.length > 0 && (
        <ul className="text-thin">
          {said.asked.map((one) => (
            <li key={one.id}>On record otherwise: {one.words}</li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** Readings of its parts as curves; those of parts that came out stay. */
export function MachineCurves({ machine, today }: { machine: Machine; today: string }) {
  const kinds = [...new Set(machine.curves.map((curve) => curve.kind))];
  return kinds.map((kind) => (
    <KindCurves key={kind} curves={machine.curves.filter((curve) => curve.kind === kind)} kind={kind} today={today} />
  ));
}

function KindCurves({ curves, kind, today }: { curves: Machine["curves"]; kind: string; today: string }) {
  const [table, setTable] = useState(false);
  const threshold = curves.find((curve) => curve.threshold !== null)?.threshold ?? null;
  const label = curves[0]?.label ?? kind;
  const gone = curves.some((curve) => curve.until) ? "; parts that came out are in it" : "";
  return (
    <FigureTable
      title={`${label}, of what it was made for`}
      aside={`${threshold === null ? "nobody said when it is swapped" : `swapped at ${percent(threshold)}`}${gone}`}
      shown={table}
      onToggle={() => setTable(!table)}
      columns={["Part, read on", "Share", "Cycles"]}
      rows={curves.flatMap((curve) =>
        curve.points.map((point) => [
          `${curve.number}, ${day(point.on)}`,
          percent(point.share),
          point.cycles === null ? "" : figure(point.cycles),
        ]),
      )}
    >
      <WearLines
        title={`Readings of ${label}, share of what it was made for, by day`}
        threshold={threshold}
        colour={kindColour(kind)}
        lines={curves.map((curve) => ({
          name: `${curve.number} since ${day(curve.since)}`,
          points: curve.points.map((point) => ({ day: daysBetween(today, point.on), share: point.share })),
          crosses: null,
        }))}
      />
    </FigureTable>
  );
}

/** Its options, what is not replaced by itself, and what its parts are worth taken out. */
export function MachineMore({ machine, currency }: { machine: Machine; currency: string }) {
  const options = Object.entries(machine.options);
  const { worth, parts, penalty } = machine.harvest;
  return (
    <section className="mt-4" aria-label="More of it">
      {options.length > 0 && (
        <p>Options: {options.map(([name, value]) => `${name.replaceAll("_", " ")} ${value}`).join(", ")}.</p>
      )}
      {machine.fixed.length > 0 && (
        <p className="mt-1">
          Not replaced by itself:{" "}
          {machine.fixed
            .map(
              (part) =>
                `${part.label} (${HELD_NAMES[part.held] ?? part.held}${part.ordered ? `, ordered as ${part.ordered.replaceAll("_", " ")}` : ""})`,
            )
            .join(", ")}
          .
        </p>
      )}
      {machine.held.length > 0 && (
        <p className="mt-1 text-soft">
          Harvested, {plural(parts, "part")} of it {parts === 1 ? "is" : "are"} worth{" "}
          {money(Math.round(worth), currency)} once tested: their price, less {percent(penalty)} for every year in
          service; packs never count.
        </p>
      )}
    </section>
  );
}
