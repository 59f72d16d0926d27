import { useState } from "react";
import { Link, useNavigate, useOutletContext, useParams } from "react-router";
import type { Schemas } from "@/api/client";
import { figure, plural, shortDay } from "@/lib/format";
import { KIND_NAMES, KINDS, kindColour } from "@/lib/words";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { Books } from "./Books";
import { FilesSheet } from "./FilesSheet";
import { LaneSheet } from "./LaneSheet";
import { OpenWork } from "./OpenWork";
import { ScanField } from "./ScanField";
import { ShelfPlate } from "./ShelfPlate";
import { Strokes, strokeWords } from "./Strokes";
import { sentence } from "./sentence";
import { type Tally, type TallyLine, useTally } from "./stores.queries";

type Session = Schemas["SessionState"];

/** Two facts and no more: what is short, and who waits. */
function Head({ tally }: { tally: Tally }) {
  const said = sentence(tally);
  return (
    <header className="px-4 pt-4">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h1 className="text-[1.75rem]">Stores</h1>
        <ScanField />
      </div>
      <p className="mt-1 max-w-[60ch] font-serif text-[1.2rem] leading-snug">
        <strong>{said.lead}</strong>; {said.rest}.
      </p>
    </header>
  );
}

interface TableProps {
  tally: Tally;
  lines: TallyLine[];
  chosen: { number: string | undefined; site: string | undefined };
  mayChange: boolean;
  onOpen: (number: string, site: string) => void;
}

const HEAD =
  "sticky top-0 z-10 border-b border-ink bg-paper pt-1 pb-1 text-left align-bottom text-[0.9rem] leading-tight";

/** How a site is supplied; a lead changes it where it stands. */
function LaneWords({ site, mayChange }: { site: Tally["sites"][number]; mayChange: boolean }) {
  const [changing, setChanging] = useState(false);
  const words = site.lane?.words ?? "no lane yet";
  if (!mayChange) return <>{words}</>;
  return (
    <>
      <button
        type="button"
        className="min-h-[24px] text-left underline decoration-dotted"
        aria-label={`${site.name} is supplied: ${words}. Change it`}
        onClick={() => setChanging(true)}
      >
        {words}
      </button>
      {changing && <LaneSheet site={site} onClose={() => setChanging(false)} />}
    </>
  );
}

function TallyTable({ tally, lines, chosen, mayChange, onOpen }: TableProps) {
  return (
    <table className="mt-2 w-full border-collapse max-[700px]:px-3">
      <thead>
        <tr>
          <th scope="col" className={`${HEAD} pl-4`}>
            Part
          </th>
          {tally.sites.map((site) => (
            <th
              key={site.code}
              scope="col"
              className={`${HEAD} pr-2 ${site.is_depot ? "border-r border-r-rule" : "pl-2"}`}
            >
              {site.name}
              <span className="block font-normal text-soft">
                {site.is_depot ? "depot" : <LaneWords site={site} mayChange={mayChange} />}
              </span>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {lines.map((line) => (
          <tr
            key={line.number}
            className={`border-b border-dotted border-rule ${chosen.number === line.number ? "bg-pick" : ""}`}
          >
            <th scope="row" className="max-w-[220px] py-1 pr-2 pl-4 text-left font-normal">
              <span className="block truncate font-semibold" title={line.name}>
                <span
                  className="mr-1.5 inline-block size-[9px] rounded-[2px]"
                  style={{ background: kindColour(line.kind) }}
                />
                {line.name}
              </span>
              <span className="code text-soft">{line.number}</span>
            </th>
            {line.cells.map((cell, place) => (
              <td
                key={cell.site}
                className={`py-1 pr-2 ${tally.sites[place]?.is_depot ? "border-r border-r-rule" : "pl-2"}`}
              >
                <button
                  type="button"
                  className={`min-h-[24px] min-w-[28px] px-0.5 text-left hover:bg-pick ${
                    chosen.number === line.number && chosen.site === cell.site ? "outline-2 outline-accent" : ""
                  }`}
                  aria-label={`${line.name} at ${tally.sites[place]?.name ?? cell.site}: ${strokeWords(cell)}`}
                  title={strokeWords(cell)}
                  onClick={() => onOpen(line.number, cell.site)}
                >
                  <Strokes cell={cell} />
                </button>
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The coming days as a line: what is to do on each, and what is late. */
function Week({ tally }: { tally: Tally }) {
  const days = [...new Set(tally.week.map((item) => item.on))];
  if (days.length === 0) return null;
  return (
    <section className="px-4 pb-3" aria-label="This week">
      <h2 className="mt-3 text-[1.15rem]">This week</h2>
      <ul className="mt-1 grid grid-cols-[repeat(auto-fill,minmax(170px,1fr))] gap-x-4 border-t-2 border-ink">
        {days.map((day) => (
          <li key={day} className="pt-1">
            <span className="font-semibold">{shortDay(day)}</span>
            <ul className="text-[0.93rem]">
              {tally.week
                .filter((item) => item.on === day)
                .map((item) => (
                  <li key={item.words} className={item.late ? "text-short" : ""}>
                    {item.words}
                  </li>
                ))}
            </ul>
          </li>
        ))}
      </ul>
    </section>
  );
}

export default function StoresPage() {
  const session = useOutletContext<Session>();
  const { number, site } = useParams();
  const [kind, setKind] = useState("");
  const [only, setOnly] = useState("");
  const [files, setFiles] = useState(false);
  const navigate = useNavigate();
  const tally = useTally();
  if (tally.isError) {
    return <FailedToRead title="The stores cannot be shown" query={tally} />;
  }
  if (!tally.data) return <Computing what="Counting the stores" queryKey={["stores"]} />;
  const found = tally.data;
  const lines = found.rows.filter((line) => kindShown(line, kind) && shown(line, only));
  const open = (next: string, at: string): void => {
    navigate(`/stores/${encodeURIComponent(next)}/${at}`);
  };
  return (
    <Spread
      name="stores"
      leftLabel="Shelves"
      turned={number}
      rightLabel="Chosen shelf"
      left={
        <div>
          <Head tally={found} />
          <div className="mx-4 mt-2 flex flex-wrap items-baseline gap-x-4 border-t border-rule pt-2">
            <label>
              <span className="text-soft">Kinds </span>
              <select
                className="border-b border-ink bg-transparent font-semibold"
                value={kind}
                onChange={(event) => setKind(event.target.value)}
              >
                <option value="">all</option>
                {KINDS.map((name) => (
                  <option key={name} value={name}>
                    {KIND_NAMES[name]}
                  </option>
                ))}
                <option value="others">other parts</option>
              </select>
            </label>
            <label>
              <span className="text-soft">Show </span>
              <select
                className="border-b border-ink bg-transparent font-semibold"
                value={only}
                onChange={(event) => setOnly(event.target.value)}
              >
                <option value="">everything</option>
                <option value="below">below their level</option>
                <option value="waits">waited for</option>
                <option value="coming">coming</option>
              </select>
            </label>
            <span className="text-soft">
              {plural(found.transfers.length, "transfer")} · {figure(found.set_aside)} set aside · {figure(found.back)}{" "}
              back to suppliers
            </span>
            <Link className="ml-auto text-accent underline" to="/stores/orders">
              Orders
            </Link>
            <button type="button" className="min-h-[24px] text-accent underline" onClick={() => setFiles(true)}>
              Paper and files
            </button>
          </div>
          {lines.length === 0 ? (
            <Nothing>
              {found.rows.length > 0
                ? "No shelf is like that."
                : "No part is on record yet. Import sites, parts and what lies on the shelves from the menu under your name."}
            </Nothing>
          ) : (
            <TallyTable
              tally={found}
              lines={lines}
              chosen={{ number, site }}
              mayChange={session.user?.role === "lead"}
              onOpen={open}
            />
          )}
          <p className="px-4 py-2 text-[0.93rem] text-soft">
            A stroke is a part on the shelf; slanted: on its way; hollow: missing to the level; pale: above it; crossed:
            expired; a disc: somebody waits; a dot: nothing there.
          </p>
          {session.user?.role === "lead" && <Books />}
          <Week tally={found} />
          {files && <FilesSheet tally={found} may={session.user?.role !== "reader"} onClose={() => setFiles(false)} />}
        </div>
      }
      right={
        number && site ? (
          <ShelfPlate key={`${number}/${site}`} number={number} site={site} session={session} tally={found} />
        ) : (
          <OpenWork tally={found} session={session} onOpen={open} />
        )
      }
    />
  );
}

const kindShown = (line: TallyLine, kind: string): boolean =>
  !kind || (kind === "others" ? !KINDS.some((name) => name === line.kind) : line.kind === kind);

function shown(line: TallyLine, only: string): boolean {
  if (only === "below")
    return line.cells.some((cell) => cell.level !== null && cell.on_hand - cell.expired + cell.coming < cell.level);
  if (only === "waits") return line.cells.some((cell) => cell.waits > 0);
  if (only === "coming") return line.cells.some((cell) => cell.coming > 0);
  return true;
}
