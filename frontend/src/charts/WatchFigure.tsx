import { scaleLinear } from "@visx/scale";
import { monthName } from "@/lib/format";
import { Levels } from "./Levels";

export interface WatchMonth {
  starts_on: string;
  failed: number;
  expected: number;
  height: number;
}

export interface WatchFigureProps {
  months: WatchMonth[];
  limit: number;
  /** Months in which the chart spoke. */
  spoke: string[];
  /** The month since which it runs ahead. */
  since: string | null;
  colour: string;
  title: string;
}

const WIDTH = 560;
const LEFT = 40;
const COUNTS = { top: 8, bottom: 104 };
const CHART = { top: 132, bottom: 236 };
const HEIGHT = 262;

/** Failures of each month as bars beside what was expected as a step line; below, how far they have run ahead, and the limit. */
export function WatchFigure({ months, limit, spoke, since, colour, title }: WatchFigureProps) {
  const step = (WIDTH - LEFT - 6) / Math.max(months.length, 1);
  const at = (place: number): number => LEFT + step * place;
  const most = Math.max(1, ...months.flatMap((month) => [month.failed, month.expected]));
  const count = scaleLinear<number>({ domain: [0, most * 1.05], range: [COUNTS.bottom, COUNTS.top] });
  const tallest = Math.max(limit, ...months.map((month) => month.height));
  const height = scaleLinear<number>({ domain: [0, tallest * 1.08], range: [CHART.bottom, CHART.top] });
  const from = since === null ? -1 : months.findIndex((month) => month.starts_on === since);
  const expected = months
    .map((month, place) => `${place ? "L" : "M"}${at(place)},${count(month.expected)} H${at(place + 1)}`)
    .join(" ");
  const heights = months
    .map((month, place) => `${place ? "L" : "M"}${at(place + 1)},${height(month.height)}`)
    .join(" ");
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={title}>
      {from >= 0 && (
        <rect
          x={at(from)}
          y={COUNTS.top}
          width={at(months.length) - at(from)}
          height={CHART.bottom - COUNTS.top}
          fill="var(--pick)"
        />
      )}
      <Levels ticks={count.ticks(3).filter(Number.isInteger)} y={count} left={LEFT} right={WIDTH - 6} />
      {months.map(
        (month, place) =>
          month.failed > 0 && (
            <rect
              key={month.starts_on}
              x={at(place) + step * 0.15}
              width={step * 0.7}
              y={count(month.failed)}
              height={COUNTS.bottom - count(month.failed)}
              fill={colour}
            />
          ),
      )}
      <path d={expected} fill="none" stroke="var(--ink)" strokeWidth={1.5} />
      <text x={LEFT} y={CHART.top - 10} fontSize={11} fill="var(--soft)">
        how far failures have run ahead; it speaks at the dashed line
      </text>
      <line x1={LEFT} x2={WIDTH - 6} y1={CHART.bottom} y2={CHART.bottom} stroke="var(--rule)" />
      <line
        x1={LEFT}
        x2={WIDTH - 6}
        y1={height(limit)}
        y2={height(limit)}
        stroke="var(--short)"
        strokeWidth={1.5}
        strokeDasharray="6 4"
      />
      <path d={heights} fill="none" stroke="var(--ink)" strokeWidth={1.8} />
      {months.map(
        (month, place) =>
          spoke.includes(month.starts_on) && (
            <path
              key={month.starts_on}
              d={`M${at(place + 1) - 5},${height(month.height) - 12} h10 l-5,9 Z`}
              fill="var(--short)"
            />
          ),
      )}
      {months.map(
        (month, place) =>
          month.starts_on.slice(5, 7) === "01" && (
            <g key={month.starts_on}>
              <line x1={at(place)} x2={at(place)} y1={COUNTS.top} y2={CHART.bottom + 4} stroke="var(--rule)" />
              <text x={at(place) + 2} y={HEIGHT - 10} fontSize={11} fill="var(--soft)">
                {month.starts_on.slice(0, 4)}
              </text>
            </g>
          ),
      )}
      {months.length < 12 && months[0] && (
        <text x={LEFT} y={HEIGHT - 10} fontSize={11} fill="var(--soft)">
          {monthName(months[0].starts_on)}
        </text>
      )}
    </svg>
  );
}
