import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { day, dayFrom, plural, shortDay } from "@/lib/format";
import { Button } from "@/ui/Button";
import { Computing } from "@/ui/Computing";
import { Failed } from "@/ui/Notice";
import { ActSheet, type SheetName } from "./ActSheet";
import { Instead } from "./Instead";
import { PartSheet } from "./PartSheet";
import { Recovered } from "./Recovered";
import { type Shelf, type Tally, useRelease, useShelf } from "./stores.queries";
import { UndoSheet } from "./UndoSheet";

export interface ShelfPlateProps {
  number: string;
  site: string;
  session: Schemas["SessionState"];
  tally: Tally;
}

const BUCKETS: Record<string, string> = {
  on_hand: "shelf",
  harvested: "harvested",
  quarantine: "quarantine",
  scrapped: "scrap",
  returned: "supplier",
  under_way: "under way",
  issued: "in a job",
};

/** One shelf: what lies there by lot, promised to whom, coming when, and what was done with it by whom and why. */
export function ShelfPlate({ number, site, session, tally }: ShelfPlateProps) {
  const [asked, setAsked] = useSearchParams();
  const wanted = ACTIONS.find(([name]) => name === asked.get("act"))?.[0] ?? null;
  const [opened, setSheet] = useState<SheetName | null>(null);
  const [editing, setEditing] = useState(false);
  const [undoing, setUndoing] = useState<number | null>(null);
  const shelf = useShelf(number, site);
  if (shelf.isError) return <Failed title="This shelf cannot be shown" detail={shelf.error.message} />;
  if (!shelf.data) return <Computing what="Looking at the shelf" queryKey={["shelf", number, site]} />;
  const found = shelf.data;
  const row = tally.rows.find((line) => line.number === number);
  const may = session.user?.role !== "reader";
  const sheet = opened ?? (may ? wanted : null);
  const close = (): void => {
    setSheet(null);
    if (wanted) setAsked({}, { replace: true });
  };
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">{found.part_name}</h2>
      <p className="text-soft">
        <span className="code">{found.part_number}</span> · at {found.site_name}
        {found.place ? `, place ${found.place}` : ""}
        {found.energy_class ? ` · ${found.energy_class}; carrier and dangerous-goods rules decide` : ""}
        {session.user?.role === "lead" && (
          <button
            type="button"
            className="ml-2 min-h-[24px] text-accent underline"
            aria-label={`Edit ${found.part_number}`}
            onClick={() => setEditing(true)}
          >
            Edit
          </button>
        )}
      </p>
      <Standing shelf={found} level={row?.cells.find((cell) => cell.site === site)?.level ?? null} />
      <div className="mt-3 flex flex-wrap items-baseline gap-x-1 gap-y-1">
        <Link className="px-3 py-1.5 font-semibold text-accent underline" to={`/outlook/${encodeURIComponent(number)}`}>
          {row && row.to_order > 0 ? `Order ${row.to_order}` : "Outlook"}
        </Link>
        {may &&
          ACTIONS.filter(([name]) => name !== "set_aside" || found.acts.length > 0).map(([name, label]) => (
            <Button key={name} look="quiet" onClick={() => setSheet(name)}>
              {label}
            </Button>
          ))}
      </div>
      <Promised shelf={found} may={may} />
      <Recovered shelf={found} may={may} />
      <Instead shelf={found} mayChange={session.user?.role === "lead"} />
      <Elsewhere row={row} tally={tally} site={site} />
      <Moves shelf={found} asOf={tally.as_of} may={may} onUndo={setUndoing} />
      {sheet && <ActSheet name={sheet} shelf={found} tally={tally} onClose={close} />}
      {editing && <PartSheet number={found.part_number} onClose={() => setEditing(false)} />}
      {undoing !== null && <UndoSheet act={undoing} onClose={() => setUndoing(null)} />}
    </article>
  );
}

const ACTIONS: [SheetName, string][] = [
  ["count", "Count"],
  ["transfer", "Transfer"],
  ["reserve", "Reserve"],
  ["set_aside", "Set aside, send back, scrap"],
];

function Standing({ shelf, level }: { shelf: Shelf; level: number | null }) {
  const promised = shelf.promised.filter((row) => row.reserved).reduce((sum, row) => sum + row.quantity, 0);
  const waits = shelf.promised.filter((row) => !row.reserved).reduce((sum, row) => sum + row.quantity, 0);
  const expired = shelf.lots.filter((lot) => lot.expired).reduce((sum, lot) => sum + lot.quantity, 0);
  const good = shelf.recovered.filter((unit) => unit.tested_as === "good").length;
  const coming = shelf.under_way + shelf.coming.reduce((sum, line) => sum + line.remaining, 0);
  return (
    <table className="mt-3 w-full">
      <tbody>
        {shelf.lots.map((lot) => (
          <tr key={`${lot.keeps_until}`} className="border-b border-dotted border-rule">
            <th scope="row" className={`py-0.5 text-left font-normal ${lot.expired ? "text-short" : ""}`}>
              {lot.keeps_until === null
                ? "keeps, or of unknown age"
                : `${lot.expired ? "expired" : "keeps until"} ${day(lot.keeps_until)}`}
            </th>
            <td className="text-right">{lot.quantity}</td>
          </tr>
        ))}
        <Sum label="On the shelf" value={shelf.on_hand} />
        {expired > 0 && <Line label="expired, no stock" value={`− ${expired}`} />}
        {promised > 0 && <Line label="promised" value={`− ${promised}`} />}
        {waits > 0 && <Line label="waited for" value={`− ${waits}`} />}
        {shelf.coming.map((line) => (
          <Line
            key={line.id}
            label={`${line.order_number}, due ${shortDay(line.expected_on)}`}
            value={`+ ${line.remaining}`}
          />
        ))}
        {shelf.under_way > 0 && <Line label="on a boat" value={`+ ${shelf.under_way}`} />}
        <Sum
          label={level === null ? "Counts towards an order" : `Counts; kept at ${level}`}
          value={shelf.on_hand + good - expired - promised - waits + coming}
        />
        {shelf.quarantine > 0 && <Line label="in quarantine, no stock" value={String(shelf.quarantine)} />}
        {shelf.harvested > good && (
          <Line label="harvested, no stock before its test" value={String(shelf.harvested - good)} />
        )}
        {good > 0 && <Line label="recovered and tested, counted with their age" value={`+ ${good}`} />}
        {shelf.returned > 0 && <Line label="back at the supplier" value={String(shelf.returned)} />}
        <Line label="last counted" value={shelf.last_counted ? day(shelf.last_counted) : "never"} />
      </tbody>
    </table>
  );
}

const Line = ({ label, value }: { label: string; value: string }) => (
  <tr className="border-b border-dotted border-rule">
    <th scope="row" className="py-0.5 text-left font-normal">
      {label}
    </th>
    <td className="text-right">{value}</td>
  </tr>
);

const Sum = ({ label, value }: { label: string; value: number }) => (
  <tr className="border-t border-b-4 border-double border-ink font-semibold">
    <th scope="row" className="py-0.5 text-left">
      {label}
    </th>
    <td className="text-right">{value}</td>
  </tr>
);

function Promised({ shelf, may }: { shelf: Shelf; may: boolean }) {
  const release = useRelease();
  if (shelf.promised.length === 0) return null;
  return (
    <table className="mt-4 w-full">
      <caption className="border-b border-ink pb-0.5 text-left font-semibold">
        Promised, first come first served
      </caption>
      <tbody>
        {shelf.promised.map((row) => (
          <tr key={`${row.reserved}/${row.id}`} className="border-b border-dotted border-rule">
            <td className="py-0.5">
              {row.quantity} {row.reserved ? "kept for" : "waited for by"}{" "}
              {row.planned_on ? (
                `the swap planned for ${day(row.planned_on)}`
              ) : row.tag ? (
                <span className="code">{row.tag}</span>
              ) : (
                "nobody named"
              )}
              , since {shortDay(row.since)}
            </td>
            <td className="text-right">
              {may && (
                <Button
                  look="quiet"
                  className="py-0!"
                  onClick={() => release.mutate({ id: row.id, reserved: row.reserved })}
                >
                  {row.reserved ? "Give free" : "Waits no longer"}
                </Button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface MovesProps {
  shelf: Shelf;
  asOf: string;
  may: boolean;
  onUndo: (act: number) => void;
}

function Moves({ shelf, asOf, may, onUndo }: MovesProps) {
  if (shelf.moves.length === 0) return <p className="mt-4 text-soft">Nothing was ever moved here.</p>;
  return (
    <table className="mt-4 w-full text-[0.95rem]">
      <caption className="border-b border-ink pb-0.5 text-left font-semibold">
        {plural(shelf.moves.length, "move")}, the latest first
      </caption>
      <tbody>
        {shelf.moves.map((row) => (
          <tr key={row.id} className="border-b border-dotted border-rule align-top">
            <td className="py-0.5 pr-2 whitespace-nowrap">{dayFrom(row.on, asOf)}</td>
            <td className="pr-2">
              {row.incident_id ? (
                <Link className="inline-block min-h-[24px] text-accent underline" to={`/ledger/${row.incident_id}`}>
                  {row.words}
                </Link>
              ) : (
                row.words
              )}
              <span className="text-soft"> {row.who ?? ""}</span>
            </td>
            <td className="pr-2 text-right text-soft">{BUCKETS[row.bucket] ?? row.bucket}</td>
            <td className="text-right font-semibold">{row.quantity > 0 ? `+${row.quantity}` : row.quantity}</td>
            <td className="pl-2 text-right">
              {may && row.can_undo && row.act_id !== null && (
                <button
                  type="button"
                  className="min-h-[24px] text-accent underline"
                  onClick={() => onUndo(row.act_id ?? 0)}
                >
                  undo
                </button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Elsewhere({ row, tally, site }: { row: Tally["rows"][number] | undefined; tally: Tally; site: string }) {
  const others = row?.cells.filter((cell) => cell.site !== site && (cell.on_hand > 0 || cell.level !== null)) ?? [];
  if (others.length === 0) return null;
  const name = (code: string): string => tally.sites.find((one) => one.code === code)?.name ?? code;
  return (
    <section className="mt-4">
      <h3 className="font-serif text-[1.1rem]">Where else</h3>
      <p>
        {others
          .map((cell) => `${name(cell.site)} ${cell.on_hand}${cell.level === null ? "" : ` of ${cell.level}`}`)
          .join(" · ")}
      </p>
    </section>
  );
}
