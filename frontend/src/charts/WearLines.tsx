import { scaleLinear } from "@visx/scale";
import { Levels, shareLevel } from "./Levels";

export interface WearLine {
  name: string;
  points: { day: number; share: number }[];
  crosses: number | null;
}

export interface WearLinesProps {
  lines: WearLine[];
  /** Share at which a unit is swapped; null where nobody said. */
  threshold: number | null;
  colour: string;
  title: string;
}

const WIDTH = 460;
const HEIGHT = 190;
const LEFT = 40;
const AHEAD = 365;
/** So many lines show each of their readings. */
const FEW = 4;

/** Readings of every unit by day, today as an upright line, and where each unit's line reaches the threshold in the coming year. */
export function WearLines({ lines, threshold, colour, title }: WearLinesProps) {
  const days = lines.flatMap((line) => line.points.map((point) => point.day));
  const shares = lines.flatMap((line) => line.points.map((point) => point.share));
  const first = Math.min(-365, ...days);
  const x = scaleLinear<number>({ domain: [first, AHEAD], range: [LEFT, WIDTH - 6] });
  const y = scaleLinear<number>({
    domain: [Math.min((threshold ?? 1) - 0.08, ...shares), Math.max(1, ...shares)],
    range: [HEIGHT - 24, 6],
  });
  const years = [-2, -1, 0, 1].filter((year) => year * 365 >= first);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={title}>
      <Levels ticks={y.ticks(5)} y={y} left={LEFT} right={WIDTH - 6} label={shareLevel} />
      {threshold !== null && (
        <line
          x1={LEFT}
          x2={WIDTH - 6}
          y1={y(threshold)}
          y2={y(threshold)}
          stroke="var(--short)"
          strokeWidth={1.2}
          strokeDasharray="5 3"
        />
      )}
      <line x1={x(0)} x2={x(0)} y1={6} y2={HEIGHT - 24} stroke="var(--ink)" strokeWidth={1} />
      {years.map((year) => (
        <text
          key={year}
          x={x(year * 365)}
          y={HEIGHT - 8}
          textAnchor={year === 1 ? "end" : "middle"}
          fontSize={10}
          fill="var(--soft)"
        >
          {year === 0 ? "today" : `${year > 0 ? "in " : ""}${Math.abs(year)} y${year < 0 ? " ago" : ""}`}
        </text>
      ))}
      {lines.map((line) => {
        const last = line.points.at(-1);
        return (
          <g key={line.name}>
            <polyline
              points={line.points.map((point) => `${x(point.day)},${y(point.share)}`).join(" ")}
              fill="none"
              stroke={colour}
              strokeWidth={1}
              opacity={0.45}
            />
            {lines.length <= FEW &&
              line.points.map((point) => (
                <circle key={point.day} cx={x(point.day)} cy={y(point.share)} r={3} fill={colour} />
              ))}
            {last &&
              threshold !== null &&
              line.crosses !== null &&
              line.crosses <= AHEAD &&
              line.crosses > last.day && (
                <>
                  <line
                    x1={x(last.day)}
                    y1={y(last.share)}
                    x2={x(line.crosses)}
                    y2={y(threshold)}
                    stroke={colour}
                    strokeWidth={0.8}
                    strokeDasharray="2 3"
                    opacity={0.6}
                  />
                  <circle cx={x(line.crosses)} cy={y(threshold)} r={3} fill={colour} />
                </>
              )}
          </g>
        );
      })}
    </svg>
  );
}
