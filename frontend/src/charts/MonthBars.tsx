import { scaleLinear } from "@visx/scale";
import { Levels } from "./Levels";

export interface MonthBar {
  name: string;
  expected: number;
  low: number;
  high: number;
}

const WIDTH = 384;
const HEIGHT = 92;
const LEFT = 30;

/** Expected parts a month as bars, with a 5-95% whisker on each. */
export function MonthBars({ months, colour, title }: { months: MonthBar[]; colour: string; title: string }) {
  const top = Math.max(1, ...months.map((month) => month.high));
  const y = scaleLinear<number>({ domain: [0, top], range: [HEIGHT - 18, 6] });
  const step = (WIDTH - LEFT - 4) / Math.max(months.length, 1);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={title}>
      <Levels ticks={y.ticks(3).filter(Number.isInteger)} y={y} left={LEFT} right={WIDTH - 4} />
      {months.map((month, place) => {
        const centre = LEFT + step * (place + 0.5);
        return (
          <g key={`${month.name}-${place}`}>
            <rect
              x={centre - step * 0.28}
              width={step * 0.56}
              y={y(month.expected)}
              height={y(0) - y(month.expected)}
              fill={colour}
              opacity={0.55}
            />
            <line x1={centre} x2={centre} y1={y(month.low)} y2={y(month.high)} stroke="var(--ink)" strokeWidth={1} />
            <line x1={centre - 3} x2={centre + 3} y1={y(month.high)} y2={y(month.high)} stroke="var(--ink)" />
            <line x1={centre - 3} x2={centre + 3} y1={y(month.low)} y2={y(month.low)} stroke="var(--ink)" />
            <text x={centre} y={HEIGHT - 4} textAnchor="middle" fontSize={10} fill="var(--soft)">
              {month.name.slice(0, 1)}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
