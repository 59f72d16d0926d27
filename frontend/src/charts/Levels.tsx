export interface LevelsProps {
  ticks: number[];
  y: (value: number) => number;
  left: number;
  right: number;
  label?: (tick: number) => string;
}

/** The levels of a chart: a hairline across at each tick, with its figure on the left. */
export function Levels({ ticks, y, left, right, label = String }: LevelsProps) {
  return (
    <>
      {ticks.map((tick) => (
        <g key={tick}>
          <line x1={left} x2={right} y1={y(tick)} y2={y(tick)} stroke="var(--rule)" strokeWidth={0.7} />
          <text x={left - 6} y={y(tick) + 3.5} textAnchor="end" fontSize={10} fill="var(--soft)">
            {label(tick)}
          </text>
        </g>
      ))}
    </>
  );
}

/** A share as the figure of a level. */
export const shareLevel = (tick: number): string => `${Math.round(tick * 100)}%`;
