import { scaleLinear, scaleLog } from "@visx/scale";
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import { figure } from "@/lib/format";
import { Levels } from "./Levels";
import { type MoneyPoint, waitingAt } from "./moneyAt";

export interface MoneyCurveProps {
  curve: MoneyPoint[];
  beside: (MoneyPoint & { name: string; words: string })[];
  chosen: number;
  currency: string;
  /** While it is dragged. */
  onMove: (money: number) => void;
  /** Once it is let go, or a key was pressed. */
  onChoose: (money: number) => void;
  title: string;
}

const WIDTH = 620;
const HEIGHT = 380;
const LEFT = 48;
const RIGHT = 14;
const BOTTOM = 40;
const TOP = 28;
const STEPS = 100;
const MARKS = [5, 10, 30, 100, 300, 1000, 3000, 10_000, 30_000, 100_000];

/** The least machine-days that money can lose, with a point on it to drag or to move by the arrow keys; other rules beside it. */
export function MoneyCurve({ curve, beside, chosen, currency, onMove, onChoose, title }: MoneyCurveProps) {
  const svg = useRef<SVGSVGElement>(null);
  const first = curve[0]?.money ?? 0;
  const last = curve.at(-1)?.money ?? 1;
  // Beyond what other rules and the point tie up the curve goes on for long and gains little.
  const far = Math.min(last, 1.6 * Math.max(chosen, ...beside.map((rule) => rule.money)));
  const high = 1.4 * Math.max(...beside.map((rule) => rule.waiting), 10);
  const low = Math.min(5, ...beside.map((rule) => Math.max(rule.waiting, 0.5)));
  const x = scaleLinear<number>({ domain: [0, far], range: [LEFT, WIDTH - RIGHT] });
  const y = scaleLog<number>({ domain: [low, high], range: [HEIGHT - BOTTOM, TOP], clamp: true });
  const shown = curve.filter((point) => point.money <= far && point.waiting <= high);
  const line = shown
    .map((point, place) => `${place ? "L" : "M"}${x(point.money)} ${y(Math.max(point.waiting, low))}`)
    .join(" ");
  const held = (money: number): number => Math.min(Math.max(money, first), last);
  const waiting = waitingAt(curve, chosen);

  const at = (event: PointerEvent): number => {
    const box = svg.current?.getBoundingClientRect();
    return box ? held(x.invert(((event.clientX - box.left) / box.width) * WIDTH)) : chosen;
  };
  const onKey = (event: KeyboardEvent): void => {
    const step = (far - first) / STEPS;
    const to = {
      ArrowLeft: chosen - step,
      ArrowDown: chosen - step,
      ArrowRight: chosen + step,
      ArrowUp: chosen + step,
    }[event.key];
    const end = { Home: first, End: far, PageDown: chosen - 10 * step, PageUp: chosen + 10 * step }[event.key];
    const wanted = to ?? end;
    if (wanted === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    onChoose(held(wanted));
  };
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="w-full touch-none select-none"
      onPointerMove={(event) => event.buttons === 1 && onMove(at(event))}
      onPointerDown={(event) => onMove(at(event))}
      onPointerUp={(event) => onChoose(at(event))}
    >
      <title>{title}</title>
      <Levels ticks={MARKS.filter((tick) => tick >= low && tick <= high)} y={y} left={LEFT} right={WIDTH - RIGHT} />
      {x.ticks(6).map((tick) => (
        <text key={tick} x={x(tick)} y={HEIGHT - 20} textAnchor="middle" fontSize={11} fill="var(--soft)">
          {figure(tick)}
        </text>
      ))}
      <text x={WIDTH - RIGHT} y={HEIGHT - 4} textAnchor="end" fontSize={11} fill="var(--soft)">
        {currency} tied up on shelves and boats
      </text>
      <text x={8} y={13} fontSize={11} fill="var(--soft)">
        machine-days lost a year
      </text>
      <path d={line} fill="none" stroke="var(--accent)" strokeWidth={2} />
      {beside.map((rule) => (
        <g key={rule.name}>
          <rect x={x(rule.money) - 4} y={y(rule.waiting) - 4} width={8} height={8} fill="var(--ink)" />
          <text
            x={x(rule.money) + (x(rule.money) > WIDTH * 0.72 ? -9 : 9)}
            y={y(rule.waiting) - 7}
            textAnchor={x(rule.money) > WIDTH * 0.72 ? "end" : "start"}
            fontSize={12}
            fill="var(--ink)"
          >
            {rule.words}
          </text>
        </g>
      ))}
      <g
        role="slider"
        tabIndex={0}
        aria-label={`Money tied up, ${currency}`}
        aria-valuemin={Math.round(first)}
        aria-valuemax={Math.round(last)}
        aria-valuenow={Math.round(chosen)}
        aria-valuetext={`${figure(chosen)} ${currency}, ${figure(waiting)} machine-days lost a year`}
        onKeyDown={onKey}
        className="cursor-ew-resize"
      >
        <line
          x1={x(chosen)}
          x2={x(chosen)}
          y1={y(waiting)}
          y2={HEIGHT - BOTTOM}
          stroke="var(--accent)"
          strokeDasharray="2 4"
        />
        <circle cx={x(chosen)} cy={y(Math.max(waiting, low))} r={16} fill="transparent" />
        <circle
          cx={x(chosen)}
          cy={y(Math.max(waiting, low))}
          r={8}
          fill="var(--leaf)"
          stroke="var(--accent)"
          strokeWidth={3}
        />
      </g>
    </svg>
  );
}
