import { scaleLinear } from "@visx/scale";
import { Levels, shareLevel } from "./Levels";

export interface FadeFigureProps {
  /** Readings of each unit at its age in years. */
  lines: { name: string; points: { years: number; share: number }[] }[];
  band: { years: number; low: number; middle: number; high: number }[];
  threshold: number;
  /** Years after which units fade faster: 5, 50 and 95% of units. */
  knee: number[] | null;
  colour: string;
  title: string;
}

const WIDTH = 560;
const HEIGHT = 260;
const LEFT = 42;
const BOTTOM = 30;

/** Every unit's readings as a thin line by its age, the band in which its group's units lie, the threshold, and the knee. */
export function FadeFigure({ lines, band, threshold, knee, colour, title }: FadeFigureProps) {
  const points = lines.flatMap((line) => line.points);
  const last = Math.max(1, ...points.map((point) => point.years), ...band.map((point) => point.years));
  const lowest = Math.min(threshold - 0.1, ...points.map((point) => point.share));
  const x = scaleLinear<number>({ domain: [0, last], range: [LEFT, WIDTH - 6] });
  const y = scaleLinear<number>({
    domain: [Math.max(lowest, 0), Math.max(1.02, ...points.map((point) => point.share))],
    range: [HEIGHT - BOTTOM, 8],
  });
  const floor = y.domain()[0] ?? 0;
  const inside = (share: number): number => y(Math.max(share, floor));
  const outline = [
    ...band.map((point, place) => `${place ? "L" : "M"}${x(point.years)} ${inside(point.high)}`),
    ...[...band].reverse().map((point) => `L${x(point.years)} ${inside(point.low)}`),
  ].join(" ");
  const middle = band
    .filter((point) => point.middle >= floor)
    .map((point, place) => `${place ? "L" : "M"}${x(point.years)} ${y(point.middle)}`)
    .join(" ");
  const [early, bend, late] = knee ?? [];
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={title}>
      <Levels ticks={y.ticks(5)} y={y} left={LEFT} right={WIDTH - 6} label={shareLevel} />
      {x.ticks(Math.min(8, Math.ceil(last))).map((tick) => (
        <text key={tick} x={x(tick)} y={HEIGHT - 16} textAnchor="middle" fontSize={10} fill="var(--soft)">
          {tick}
        </text>
      ))}
      <text x={(LEFT + WIDTH) / 2} y={HEIGHT - 3} textAnchor="middle" fontSize={10} fill="var(--soft)">
        age, years
      </text>
      {band.length > 0 && <path d={`${outline} Z`} fill="var(--ink)" opacity={0.1} />}
      {lines.map((line) => (
        <g key={line.name}>
          <polyline
            points={line.points.map((point) => `${x(point.years)},${y(point.share)}`).join(" ")}
            fill="none"
            stroke={colour}
            strokeWidth={0.9}
            opacity={0.55}
          />
          {line.points.length < 3 &&
            line.points.map((point) => (
              <circle key={point.years} cx={x(point.years)} cy={y(point.share)} r={1.8} fill={colour} opacity={0.7} />
            ))}
        </g>
      ))}
      <path d={middle} fill="none" stroke="var(--ink)" strokeWidth={1.4} strokeDasharray="5 3" />
      <line
        x1={LEFT}
        x2={WIDTH - 6}
        y1={y(threshold)}
        y2={y(threshold)}
        stroke="var(--short)"
        strokeWidth={1.4}
        strokeDasharray="6 4"
      />
      {early !== undefined && bend !== undefined && late !== undefined && bend < last && (
        <g>
          <line
            x1={x(Math.min(early, last))}
            x2={x(Math.min(late, last))}
            y1={HEIGHT - BOTTOM - 3}
            y2={HEIGHT - BOTTOM - 3}
            stroke="var(--thin)"
            strokeWidth={3}
          />
          <text x={x(bend)} y={HEIGHT - BOTTOM - 9} textAnchor="middle" fontSize={10} fill="var(--thin)">
            knee
          </text>
        </g>
      )}
    </svg>
  );
}
