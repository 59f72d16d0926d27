import { scaleLinear } from "@visx/scale";
import { type ArrivalPoint, band, polyline, positions, type StockPoint } from "./waterline";

export interface TideStripProps {
  path: StockPoint[];
  arrivals: ArrivalPoint[];
  /** The reorder point; null where none is kept. */
  orderAt: number | null;
  /** Days until the likely next order, 5, 50 and 95%; null where it is not within the year. */
  next: (number | null)[];
  /** An order is due today. */
  due: boolean;
  monthEnds: number[];
  colour: string;
  title: string;
}

const WIDTH = 196;
const HEIGHT = 36;
const TOP = 9;

/** One part's year: the position without new orders as a water level against its reorder point, and the likely day of the next order. */
export function TideStrip({ path, arrivals, orderAt, next, due, monthEnds, colour, title }: TideStripProps) {
  const last = path.at(-1)?.day ?? 1;
  const points = positions(path, arrivals);
  const line = (level: "low" | "median" | "high"): [number, number][] => points.map((p) => [p.day, p[level]]);
  const top = Math.max((orderAt ?? 0) + 1, 1, ...points.map((p) => p.high));
  const x = scaleLinear<number>({ domain: [0, last], range: [1, WIDTH - 1] });
  const bottom = HEIGHT - 3;
  const y = scaleLinear<number>({ domain: [0, top], range: [bottom, TOP + 2], clamp: true });
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} width={WIDTH} height={HEIGHT} role="img" aria-label={title}>
      <path d={band(line("high"), line("low"), x, y)} fill={colour} opacity={0.22} />
      <path d={polyline(line("median"), x, y)} fill="none" stroke={colour} strokeWidth={1.5} />
      <line x1={x(0)} x2={x(last)} y1={bottom} y2={bottom} stroke="var(--soft)" strokeWidth={1} />
      {monthEnds.map((end) => (
        <line key={end} x1={x(end)} x2={x(end)} y1={bottom - 2} y2={bottom} stroke="var(--soft)" strokeWidth={0.6} />
      ))}
      {orderAt !== null && (
        <line
          x1={x(0)}
          x2={x(last)}
          y1={y(orderAt)}
          y2={y(orderAt)}
          stroke="var(--ink)"
          strokeWidth={1}
          strokeDasharray="2 3"
        />
      )}
      <NextOrder next={next} due={due} x={x} last={last} />
    </svg>
  );
}

/** The days on which the next order is likely: a band with its median, or a mark at today where one is due. */
function NextOrder({
  next,
  due,
  x,
  last,
}: {
  next: (number | null)[];
  due: boolean;
  x: (day: number) => number;
  last: number;
}) {
  const [early = null, likely = null, late = null] = next;
  if (due) return <rect x={x(0)} y={1} width={3} height={TOP - 1} fill="var(--short)" />;
  if (early === null) return null;
  const end = late === null ? last : Math.min(late, last);
  return (
    <g>
      <rect x={x(early)} y={3} width={Math.max(x(end) - x(early), 2)} height={5} fill="var(--short)" opacity={0.38} />
      {likely !== null && <rect x={x(likely) - 1} y={1} width={2.5} height={TOP - 1} fill="var(--short)" />}
    </g>
  );
}
