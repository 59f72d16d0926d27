import { Link } from "react-router";
import { useStacked } from "@/lib/narrow";
import { useRowsInSight } from "@/shared/useRowsInSight";
import type { Look, RegisterLine } from "./fleet.queries";
import { type Column, columnsOf, marksOf } from "./words";

const ROW = 30;
/** On a narrow screen a row stands as a block, two figures to a line. */
const STACKED_LINE = 22;

export interface RegisterListProps {
  machines: RegisterLine[];
  asOf: string;
  look: Look;
  onLook: (changed: Partial<Look>) => void;
  picked: Set<string>;
  onPick: ((tags: string[], picked: boolean) => void) | null;
  total: number;
  more: boolean;
  loading: boolean;
  onMore: () => void;
}

/** Machines, those in sight alone; the next page is fetched before its end is reached. */
export function RegisterList(props: RegisterListProps) {
  const { machines, look, more, loading, onMore, picked, onPick } = props;
  const columns = columnsOf(look.columns);
  const stacked = useStacked();
  const height = stacked ? ROW + STACKED_LINE * Math.ceil((columns.length + 1) / 2) : ROW;
  const { frame, rows, shown } = useRowsInSight({ count: machines.length, height, more, loading, onMore });
  const grid = {
    gridTemplateColumns: `${onPick ? "24px " : ""}88px ${columns.map((column) => WIDTHS[column.name] ?? "minmax(80px, 1fr)").join(" ")} minmax(84px, 0.9fr)`,
  };
  return (
    <div className="min-h-[260px] flex-1 overflow-x-auto">
      <div
        role="table"
        aria-label="Machines"
        aria-rowcount={props.total}
        className="flex h-full flex-col"
        style={stacked ? {} : { minWidth: `${152 + columns.length * 96}px` }}
      >
        <div role="rowgroup">
          <div
            role="row"
            className="grid items-end gap-x-2 border-b border-ink py-1 text-[0.93rem] max-[700px]:flex max-[700px]:flex-wrap"
            style={grid}
          >
            {onPick && (
              <span role="columnheader">
                <input
                  type="checkbox"
                  className="block size-[18px]"
                  aria-label={`All ${machines.length} that were read`}
                  checked={machines.length > 0 && machines.every((machine) => picked.has(machine.tag))}
                  onChange={(event) =>
                    onPick(
                      machines.map((machine) => machine.tag),
                      event.target.checked,
                    )
                  }
                />
              </span>
            )}
            <Head column={TAG} {...props} />
            {columns.map((column) => (
              <Head key={column.name} column={column} {...props} />
            ))}
            <span role="columnheader" className="font-semibold">
              Marks
            </span>
          </div>
        </div>
        <div
          ref={frame}
          role="rowgroup"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reachable by keyboard
          tabIndex={0}
          aria-label="Machines that were read"
          className="min-h-0 flex-1 overflow-y-auto"
        >
          <div style={{ height: rows.getTotalSize(), position: "relative" }} role="presentation">
            {shown.map((item) => {
              const machine = machines[item.index];
              return machine ? (
                <Row
                  key={machine.tag}
                  {...props}
                  columns={columns}
                  height={height}
                  stacked={stacked}
                  grid={grid}
                  machine={machine}
                  place={item.index}
                  top={item.start}
                />
              ) : null;
            })}
          </div>
          {loading && <p className="py-2 text-center text-soft">Reading on…</p>}
        </div>
      </div>
    </div>
  );
}

const WIDTHS: Record<string, string> = {
  model: "minmax(120px, 1.4fr)",
  site: "44px",
  age: "44px",
  duty: "84px",
  failed: "64px",
  share: "100px",
  retiring: "92px",
  warranty: "92px",
  serial: "100px",
  reported: "96px",
};
const TAG: Column = { name: "tag", title: "Tag", sort: "tag", cell: (machine) => machine.tag };

function Head({ column, look, onLook }: { column: Column } & Pick<RegisterListProps, "look" | "onLook">) {
  const sorted = (look.sort || "tag") === column.sort;
  const falling = look.descending === "yes";
  return (
    <span
      role="columnheader"
      aria-sort={sorted ? (falling ? "descending" : "ascending") : undefined}
      className={`font-semibold ${column.numeric ? "text-right" : ""}`}
    >
      {column.sort ? (
        <button
          type="button"
          className="min-h-[24px] text-left underline decoration-dotted underline-offset-2"
          onClick={() =>
            onLook({
              sort: column.sort === "tag" ? "" : (column.sort ?? ""),
              descending: sorted && !falling ? "yes" : "",
            })
          }
        >
          {column.title}
          {sorted ? (falling ? " ↓" : " ↑") : ""}
        </button>
      ) : (
        column.title
      )}
    </span>
  );
}

interface RowProps extends RegisterListProps {
  height: number;
  stacked: boolean;
  columns: Column[];
  grid: { gridTemplateColumns: string };
  machine: RegisterLine;
  place: number;
  top: number;
}

function Row({ columns, grid, height, stacked, machine, place, top, asOf, picked, onPick }: RowProps) {
  const name = (words: string) => stacked && <span className="text-soft">{words} </span>;
  return (
    <div
      role="row"
      aria-rowindex={place + 1}
      className={`absolute inset-x-0 grid items-center gap-x-2 border-b max-[700px]:flex max-[700px]:flex-wrap max-[700px]:content-center border-dotted border-rule hover:bg-pick ${picked.has(machine.tag) ? "bg-pick" : ""}`}
      style={{ ...grid, height, transform: `translateY(${top}px)` }}
    >
      {onPick && (
        <span role="cell">
          <input
            type="checkbox"
            className="block size-[18px]"
            aria-label={machine.tag}
            checked={picked.has(machine.tag)}
            onChange={(event) => onPick([machine.tag], event.target.checked)}
          />
        </span>
      )}
      <span role="cell" className="max-[700px]:basis-[70%]">
        <Link
          className="code inline-block py-0.5 text-accent underline"
          to={`/machines/${encodeURIComponent(machine.tag)}`}
        >
          {machine.tag}
        </Link>
      </span>
      {columns.map((column) => (
        <span
          key={column.name}
          role="cell"
          className={`truncate max-[700px]:basis-[46%] ${column.numeric ? "text-right max-[700px]:text-left" : ""} ${column.name === "serial" ? "code" : ""}`}
          title={column.cell(machine, asOf)}
        >
          {name(column.title)}
          {column.cell(machine, asOf)}
        </span>
      ))}
      <span role="cell" className="truncate text-thin" title={marksOf(machine).join(", ")}>
        {marksOf(machine).join(", ")}
      </span>
    </div>
  );
}
