import type { Cell } from "./stores.queries";

const MOST = 9;
const FEW = 5;
const HIGH = 15;
const STEP = 6;

/** What a shelf holds in words: the same as the strokes say. */
export function strokeWords(cell: Cell): string {
  const words = [`${cell.on_hand} on the shelf`];
  if (cell.expired > 0) words.push(`${cell.expired} of them expired`);
  if (cell.coming > 0) words.push(`${cell.coming} coming`);
  if (cell.level !== null) words.push(`kept at ${cell.level}`);
  const missing = missingOf(cell);
  if (missing > 0) words.push(`${missing} missing`);
  if (cell.waits > 0) words.push(`${cell.waits} waited for`);
  if (cell.set_aside > 0) words.push(`${cell.set_aside} set aside`);
  return words.join(", ");
}

const usableOf = (cell: Cell): number => cell.on_hand - cell.expired;
const missingOf = (cell: Cell): number => Math.max((cell.level ?? 0) - usableOf(cell) - cell.coming, 0);

type Mark = "shelf" | "above" | "expired" | "coming" | "missing" | "waits";

const times = (mark: Mark, count: number): Mark[] => Array<Mark>(Math.max(count, 0)).fill(mark);

/** What lies there, and beside it what does not. */
export function marksOf(cell: Cell): { here: Mark[]; beside: Mark[] } {
  const usable = usableOf(cell);
  const kept = Math.min(usable, Math.max(cell.level ?? usable, 0));
  return {
    here: [...times("shelf", kept), ...times("above", usable - kept), ...times("expired", cell.expired)],
    beside: [...times("coming", cell.coming), ...times("missing", missingOf(cell)), ...times("waits", cell.waits)],
  };
}

/** One stroke a part: upright on the shelf, slanted on its way, hollow missing to the level, pale above it, a disc for somebody who waits.

Where there are many, the parts that lie there become a figure first; who waits and what is missing is never left out. */
export function Strokes({ cell }: { cell: Cell }) {
  const { here, beside } = marksOf(cell);
  const many = here.length + beside.length > MOST;
  const shown = many ? here.slice(-FEW) : here;
  return (
    <span className="inline-flex items-center gap-1">
      {here.length + beside.length === 0 && <Row marks={[]} />}
      {shown.length > 0 && <Row marks={shown} />}
      {shown.length < here.length && <span className="text-[0.86rem] text-soft">{cell.on_hand}</span>}
      {beside.length > 0 && <Row marks={beside.slice(0, MOST)} />}
    </span>
  );
}

function Row({ marks }: { marks: Mark[] }) {
  const width = Math.max(marks.length, 1) * STEP;
  return (
    <svg width={width} height={HIGH + 2} viewBox={`0 0 ${width} ${HIGH + 2}`} aria-hidden="true">
      {marks.length === 0 && <circle cx={STEP / 2} cy={HIGH / 2 + 1} r={1} fill="var(--soft)" />}
      {marks.map((mark, place) => (
        <Stroke key={place} mark={mark} x={place * STEP + 1} />
      ))}
    </svg>
  );
}

function Stroke({ mark, x }: { mark: Mark; x: number }) {
  if (mark === "waits") return <circle cx={x + 2} cy={HIGH / 2 + 1} r={3} fill="var(--short)" />;
  if (mark === "coming") return <line x1={x} y1={HIGH} x2={x + 4} y2={1} stroke="var(--accent)" strokeWidth={2} />;
  if (mark === "missing")
    return <rect x={x} y={1} width={3} height={HIGH - 1} fill="none" stroke="var(--short)" strokeWidth={1} />;
  if (mark === "expired")
    return <path d={`M${x} 1 l4 ${HIGH - 1} m0 ${1 - HIGH} l-4 ${HIGH - 1}`} stroke="var(--thin)" strokeWidth={1} />;
  return <rect x={x} y={0.5} width={3.4} height={HIGH} fill={mark === "above" ? "var(--rule)" : "var(--ink)"} />;
}
