import { useEffect } from "react";
import { ageWithin, day } from "@/lib/format";
import { useStacked } from "@/lib/narrow";
import { FINDING_NAMES, kindColour } from "@/lib/words";
import { useRowsInSight } from "@/shared/useRowsInSight";
import type { LogEntry } from "./ledger.queries";

export interface LogTableProps {
  entries: LogEntry[];
  chosen: number | null;
  onChoose: (id: number) => void;
  more: boolean;
  loading: boolean;
  onMore: () => void;
}

const ROW = 44;
const STACKED_ROW = 104;
const GRID =
  "grid grid-cols-[92px_82px_minmax(0,1.1fr)_minmax(0,1.3fr)_118px] gap-x-3 items-center px-3 max-[700px]:grid-cols-[92px_82px_minmax(0,1fr)] max-[700px]:py-1";
/** On a narrow screen a row stands as a block: what and where it was below its day. */
const WIDE_CELL = "min-w-0 leading-tight max-[700px]:order-last max-[700px]:col-span-3";

/**
 * The failure log; only the rows in sight exist, and the next page is fetched before its end is reached.
 * Roles say what a table element cannot when most of its rows are absent.
 */
export function LogTable({ entries, chosen, onChoose, more, loading, onMore }: LogTableProps) {
  const height = useStacked() ? STACKED_ROW : ROW;
  const { frame, rows, shown } = useRowsInSight({ count: entries.length, height, more, loading, onMore });
  const at = entries.findIndex((entry) => entry.incident_id === chosen);
  useEffect(() => {
    if (at >= 0) rows.scrollToIndex(at, { align: "auto" });
  }, [at, rows]);
  return (
    <div
      role="table"
      aria-label="Failure log"
      aria-rowcount={more ? -1 : entries.length}
      className="mt-2 flex min-h-[300px] flex-1 flex-col"
    >
      <div role="rowgroup">
        <div
          role="row"
          className={`${GRID} border-b border-ink py-1 text-[0.93rem] font-semibold text-soft max-[700px]:sr-only`}
        >
          {["Day", "Asset", "Model, site", "Part, what was noticed", "Finding"].map((name) => (
            <span role="columnheader" key={name}>
              {name}
            </span>
          ))}
        </div>
      </div>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reachable by keyboard */}
      <div ref={frame} role="rowgroup" tabIndex={0} className="min-h-0 flex-1 overflow-y-auto">
        <div style={{ height: rows.getTotalSize(), position: "relative" }} role="presentation">
          {shown.map((item) => {
            const entry = entries[item.index];
            if (!entry) return null;
            return (
              <LogRow
                key={entry.incident_id}
                entry={entry}
                place={item.index}
                top={item.start}
                height={height}
                picked={entry.incident_id === chosen}
                onChoose={onChoose}
              />
            );
          })}
        </div>
        {loading && <p className="py-2 text-center text-soft">Reading on…</p>}
      </div>
    </div>
  );
}

interface RowProps {
  entry: LogEntry;
  place: number;
  top: number;
  height: number;
  picked: boolean;
  onChoose: (id: number) => void;
}

function LogRow({ entry, place, top, height, picked, onChoose }: RowProps) {
  const line = entry.lines[0];
  const colour = entry.finding === "open" ? "font-semibold text-thin" : "";
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the button of the day and the arrow keys do the same
    <div
      role="row"
      aria-rowindex={place + 1}
      onClick={() => onChoose(entry.incident_id)}
      className={`${GRID} absolute inset-x-0 cursor-pointer border-b border-dotted border-rule hover:bg-pick ${picked ? "bg-pick shadow-[inset_5px_0_0_var(--accent)]" : ""}`}
      style={{ height, transform: `translateY(${top}px)` }}
    >
      <span role="cell">
        <button type="button" className="whitespace-nowrap text-left">
          {day(entry.occurred_on)}
        </button>
      </span>
      <span role="cell" className="code">
        {entry.tag}
      </span>
      <span role="cell" className={WIDE_CELL}>
        <span className="block truncate">{entry.model}</span>
        <span className="block truncate text-[0.9rem] text-soft">{entry.site}</span>
      </span>
      <span role="cell" className={WIDE_CELL}>
        <span className="block truncate">
          <span
            className="mr-1.5 inline-block size-[9px] rounded-[2px]"
            style={{ background: kindColour(line?.kind ?? "other") }}
          />
          {line?.position}
          {line?.age_days != null && (
            <span className="text-soft"> at {ageWithin(line.age_days, line.age_span_days ?? 0)}</span>
          )}
          {entry.lines.length > 1 && <span className="text-soft"> and {entry.lines.length - 1} more</span>}
        </span>
        <span className="block truncate text-[0.9rem] text-soft">{entry.reason}</span>
      </span>
      <span role="cell" className={colour}>
        {FINDING_NAMES[entry.finding]}
      </span>
    </div>
  );
}
