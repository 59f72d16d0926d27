import { scaleLinear } from "@visx/scale";
import { useId } from "react";
import { Levels } from "./Levels";
import { type ArrivalPoint, band, polyline, type StockPoint, waterline } from "./waterline";

export interface PlanFigureProps {
  planned: StockPoint[];
  without: StockPoint[];
  arrivals: ArrivalPoint[];
  months: { name: string; from: number; to: number }[];
  floor: number;
  colour: string;
  title: string;
  /** Another plan that is drawn on the same scale. */
  beside?: StockPoint[];
}

const WIDTH = 384;
const HEIGHT = 168;
const LEFT = 30;
const BOTTOM = 18;

/** The stock of a part as its rule would make it, and dashed where it would go without orders. */
export function PlanFigure(props: PlanFigureProps) {
  const { planned, without, arrivals, months, floor, colour, title, beside = [] } = props;
  const last = planned.at(-1)?.day ?? 1;
  const bare = waterline(without, arrivals, "median");
  const corner = (level: "low" | "median" | "high"): [number, number][] => planned.map((p) => [p.day, p[level]]);
  const drawn = [...planned, ...beside];
  const values = drawn.flatMap((p) => [p.low, p.high]);
  const span = Math.max(...values) - Math.min(...values, floor);
  const bottom = Math.min(floor - Math.max(span * 0.3, 2), ...drawn.map((p) => p.low));
  const x = scaleLinear<number>({ domain: [0, last], range: [LEFT, WIDTH - 4] });
  const y = scaleLinear<number>({
    domain: [bottom, Math.max(...values, floor + 1)],
    range: [HEIGHT - BOTTOM, 14],
    clamp: true,
    nice: true,
  });
  const free = y.copy().clamp(false);
  const clip = useId();
  const ticks = y.ticks(5).filter(Number.isInteger);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={title}>
      <Levels ticks={ticks} y={y} left={LEFT} right={WIDTH - 4} />
      <path d={band(corner("high"), corner("low"), x, y)} fill={colour} opacity={0.22} />
      <clipPath id={clip}>
        <rect x={LEFT} y={0} width={WIDTH - LEFT - 4} height={HEIGHT - BOTTOM} />
      </clipPath>
      <path
        d={polyline(bare, x, free)}
        clipPath={`url(#${clip})`}
        fill="none"
        stroke="var(--short)"
        strokeWidth={1.2}
        strokeDasharray="4 3"
      />
      <line x1={LEFT} x2={WIDTH - 4} y1={y(floor)} y2={y(floor)} stroke="var(--ink)" strokeWidth={1.2} />
      <path d={polyline(corner("median"), x, y)} fill="none" stroke={colour} strokeWidth={1.7} />
      {months.map((month) => (
        <text
          key={month.from}
          x={x((month.from + month.to) / 2)}
          y={HEIGHT - 4}
          textAnchor="middle"
          fontSize={10}
          fill="var(--soft)"
        >
          {month.name.slice(0, 1)}
        </text>
      ))}
    </svg>
  );
}
