import { scaleLinear } from "@visx/scale";
import { Levels } from "./Levels";

export interface HazardFigureProps {
  curve: { age: number; hazard: number }[];
  served: { age: number; units: number }[];
  colour: string;
  title: string;
  /** Parts that fail in another way than their kind, as thin lines with their name. */
  others?: { name: string; curve: { age: number; hazard: number }[] }[];
}

const WIDTH = 460;
const HEIGHT = 170;
const LEFT = 38;
const RIGHT = 40;
const BOTTOM = 30;
const HALF = 0.5;

/** Failures per 100 a year by age as a line, over the units that are at that age now as bars. */
export function HazardFigure({ curve, served, colour, title, others = [] }: HazardFigureProps) {
  const last = Math.max(curve.at(-1)?.age ?? 1, (served.at(-1)?.age ?? 0) + HALF);
  const shown = curve.filter((point) => point.age > 0.1);
  const x = scaleLinear<number>({ domain: [0, last], range: [LEFT, WIDTH - RIGHT] });
  const y = scaleLinear<number>({
    domain: [0, Math.max(...shown.map((point) => point.hazard * 100), 0.1)],
    range: [HEIGHT - BOTTOM, 12],
    nice: true,
  });
  const most = Math.max(...served.map((bar) => bar.units), 1);
  const units = scaleLinear<number>({ domain: [0, most], range: [HEIGHT - BOTTOM, 12], nice: true });
  const top = y.domain()[1] ?? 0;
  const drawn = (points: HazardFigureProps["curve"]): string =>
    points
      .filter((point) => point.age > 0.1 && point.hazard * 100 <= top)
      .map((point, place) => `${place ? "L" : "M"}${x(point.age)} ${y(point.hazard * 100)}`)
      .join(" ");
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={title}>
      <Levels ticks={y.ticks(4)} y={y} left={LEFT} right={WIDTH - RIGHT} />
      {served.map((bar) => (
        <rect
          key={bar.age}
          x={x(bar.age) + 0.8}
          width={Math.max(x(bar.age + HALF) - x(bar.age) - 1.6, 0.5)}
          y={units(bar.units)}
          height={units(0) - units(bar.units)}
          fill={colour}
          opacity={0.32}
        />
      ))}
      {units.ticks(3).map((tick) => (
        <text key={tick} x={WIDTH - RIGHT + 6} y={units(tick) + 3.5} fontSize={10} fill={colour}>
          {tick}
        </text>
      ))}
      {others.map((other, place) => (
        <g key={other.name}>
          <path d={drawn(other.curve)} fill="none" stroke="var(--ink)" strokeWidth={0.9} strokeDasharray="4 2.5" />
          <NamedEnd name={other.name} place={place} curve={other.curve} x={x} y={y} top={top} />
        </g>
      ))}
      <path d={drawn(curve)} fill="none" stroke="var(--ink)" strokeWidth={1.7} />
      {x.ticks(Math.min(10, Math.ceil(last))).map((tick) => (
        <text key={tick} x={x(tick)} y={HEIGHT - 16} textAnchor="middle" fontSize={10} fill="var(--soft)">
          {tick}
        </text>
      ))}
      <text x={(LEFT + WIDTH - RIGHT) / 2} y={HEIGHT - 3} textAnchor="middle" fontSize={10} fill="var(--soft)">
        age, years · left: failures per 100 a year · right: units in service
      </text>
    </svg>
  );
}

interface NamedEndProps {
  name: string;
  place: number;
  curve: HazardFigureProps["curve"];
  x: (age: number) => number;
  y: (hazard: number) => number;
  top: number;
}

/** A line's name at its last point inside the figure, names of several lines at steps of their own. */
function NamedEnd({ name, place, curve, x, y, top }: NamedEndProps) {
  const last = curve.findLast((point) => point.hazard * 100 <= top);
  if (!last) return null;
  return (
    <text
      x={Math.min(x(last.age), WIDTH - RIGHT) - 4}
      y={Math.max(y(last.hazard * 100), 12) + 11 + place * 11}
      textAnchor="end"
      fontSize={9}
      fill="var(--ink)"
    >
      {name}
    </text>
  );
}
