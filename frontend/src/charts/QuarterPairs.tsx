import { scaleLinear } from "@visx/scale";
import { Levels } from "./Levels";

export interface QuarterPair {
  name: string;
  expected: number;
  seen: number;
}

const WIDTH = 460;
const HEIGHT = 150;
const LEFT = 34;

/** Quarter by quarter: what was expected as a bar, what was drawn as a disc. */
export function QuarterPairs({ quarters, colour, title }: { quarters: QuarterPair[]; colour: string; title: string }) {
  const top = Math.max(1, ...quarters.flatMap((quarter) => [quarter.expected, quarter.seen])) * 1.08;
  const y = scaleLinear<number>({ domain: [0, top], range: [HEIGHT - 22, 6] });
  const step = (WIDTH - LEFT - 4) / Math.max(quarters.length, 1);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={title}>
      <Levels ticks={y.ticks(4)} y={y} left={LEFT} right={WIDTH - 4} />
      {quarters.map((quarter, place) => {
        const centre = LEFT + step * (place + 0.5);
        return (
          <g key={quarter.name}>
            <rect
              x={centre - step * 0.3}
              width={step * 0.6}
              y={y(quarter.expected)}
              height={y(0) - y(quarter.expected)}
              fill={colour}
              opacity={0.4}
            />
            <circle cx={centre} cy={y(quarter.seen)} r={4} fill="var(--ink)" />
            <text x={centre} y={HEIGHT - 6} textAnchor="middle" fontSize={9.5} fill="var(--soft)">
              {quarter.name}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
