import { scaleLinear } from "@visx/scale";
import { Levels, shareLevel } from "./Levels";
import { type StepPoint, stepBand, stepPath } from "./steps";

export interface SurvivalFigureProps {
  steps: StepPoint[];
  from: number;
  curve: { age: number; survival: number; low: number; high: number }[];
  colour: string;
  title: string;
}

const WIDTH = 460;
const HEIGHT = 200;
const LEFT = 38;
const BOTTOM = 30;

/** What the log says of survival, as steps with their band, and the fitted life over it. */
export function SurvivalFigure({ steps, from, curve, colour, title }: SurvivalFigureProps) {
  const last = curve.at(-1)?.age ?? 1;
  const x = scaleLinear<number>({ domain: [0, last], range: [LEFT, WIDTH - 6] });
  const y = scaleLinear<number>({ domain: [0, 1], range: [HEIGHT - BOTTOM, 8] });
  const until = steps.at(-1)?.age ?? from;
  const fitted = curve.map((point, place) => `${place ? "L" : "M"}${x(point.age)} ${y(point.survival)}`).join(" ");
  const doubt = [
    ...curve.map((point, place) => `${place ? "L" : "M"}${x(point.age)} ${y(point.high)}`),
    ...[...curve].reverse().map((point) => `L${x(point.age)} ${y(point.low)}`),
  ].join(" ");
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
      <path d={stepBand(steps, from, until, x, y)} fill={colour} opacity={0.22} />
      <path d={stepPath(steps, from, until, x, y)} fill="none" stroke={colour} strokeWidth={1.8} />
      <path d={`${doubt} Z`} fill="var(--ink)" opacity={0.1} />
      <path d={fitted} fill="none" stroke="var(--ink)" strokeWidth={1.3} strokeDasharray="5 3" />
    </svg>
  );
}
