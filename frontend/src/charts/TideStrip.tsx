import { scaleLinear } from "@visx/scale";
import { type ArrivalPoint, band, polyline, type StockPoint, stretchesBelow, waterline } from "./waterline";

export interface TideStripProps {
  path: StockPoint[];
  arrivals: ArrivalPoint[];
  floor: number;
  orderDay: number | null;
  monthEnds: number[];
  colour: string;
  title: string;
}

const WIDTH = 236;
const HEIGHT = 36;
const BAR = 4;

/** One part's year: the projected stock as a water level above its floor, with its 5-95% band. */
export function TideStrip({ path, arrivals, floor, orderDay, monthEnds, colour, title }: TideStripProps) {
  const last = path.at(-1)?.day ?? 1;
  const low = waterline(path, arrivals, "low");
  const median = waterline(path, arrivals, "median");
  const high = waterline(path, arrivals, "high");
  const top = Math.max(floor + 1, ...high.map(([, stock]) => stock));
  const x = scaleLinear<number>({ domain: [0, last], range: [1, WIDTH - 1] });
  const water = HEIGHT - BAR - 3;
  const y = scaleLinear<number>({ domain: [floor, top], range: [water, 3], clamp: true });
  const bar = (stretches: [number, number][], fill: string) =>
    stretches.map(([from, to]) => (
      <rect key={from} x={x(from)} y={HEIGHT - BAR} width={Math.max(x(to) - x(from), 1)} height={BAR} fill={fill} />
    ));
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} width={WIDTH} height={HEIGHT} role="img" aria-label={title}>
      <path d={band(high, low, x, y)} fill={colour} opacity={0.2} />
      <path d={`${polyline(median, x, y)}L${x(last)},${water}L${x(0)},${water}Z`} fill={colour} opacity={0.22} />
      <path d={polyline(median, x, y)} fill="none" stroke={colour} strokeWidth={1.4} />
      <line x1={x(0)} x2={x(last)} y1={water} y2={water} stroke="var(--soft)" strokeWidth={1} />
      {monthEnds.map((end) => (
        <line key={end} x1={x(end)} x2={x(end)} y1={water - 2} y2={water} stroke="var(--soft)" strokeWidth={0.6} />
      ))}
      {bar(stretchesBelow(low, floor), "var(--low)")}
      {bar(stretchesBelow(median, floor), "var(--short)")}
      {orderDay !== null && orderDay <= last && (
        <g transform={`translate(${Math.min(x(orderDay), WIDTH - 10)},0)`}>
          <line y1={1} y2={water} stroke="var(--short)" strokeWidth={1.2} />
          <path d="M0,1 L9,1 L6.5,4 L9,7 L0,7 Z" fill="var(--short)" />
        </g>
      )}
    </svg>
  );
}
