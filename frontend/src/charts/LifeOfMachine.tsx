import { scaleTime } from "@visx/scale";

export interface LifeMark {
  day: string;
  row: "stood" | "incident" | "fitted" | "job";
  title: string;
}

export interface LifeOfMachineProps {
  from: string;
  to: string;
  marks: LifeMark[];
  title: string;
}

const WIDTH = 560;
const LEFT = 66;
const ROWS: { row: LifeMark["row"]; name: string }[] = [
  { row: "stood", name: "moved" },
  { row: "incident", name: "incidents" },
  { row: "fitted", name: "fitted" },
  { row: "job", name: "jobs" },
];
const STEP = 20;
const HEIGHT = ROWS.length * STEP + 26;

/** A machine's life in one line of time: each sort of event on a line of its own, told apart by shape as well. */
export function LifeOfMachine({ from, to, marks, title }: LifeOfMachineProps) {
  const x = scaleTime<number>({ domain: [new Date(from), new Date(to)], range: [LEFT, WIDTH - 10] });
  const years = Array.from(
    { length: Number(to.slice(0, 4)) - Number(from.slice(0, 4)) },
    (_, place) => Number(from.slice(0, 4)) + 1 + place,
  );
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={title}>
      {years.map((year) => {
        const at = x(new Date(`${year}-01-01`));
        return (
          <g key={year}>
            <line x1={at} x2={at} y1={4} y2={HEIGHT - 20} stroke="var(--rule)" />
            <text x={at} y={HEIGHT - 6} textAnchor="middle" fontSize={11} fill="var(--soft)">
              {year}
            </text>
          </g>
        );
      })}
      {ROWS.map(({ row, name }, place) => {
        const y = 14 + place * STEP;
        return (
          <g key={row}>
            <text x={LEFT - 10} y={y + 4} textAnchor="end" fontSize={11} fill="var(--soft)">
              {name}
            </text>
            <line x1={LEFT} x2={WIDTH - 10} y1={y} y2={y} stroke="var(--rule)" strokeDasharray="1 3" />
            {marks
              .filter((mark) => mark.row === row)
              .map((mark) => (
                <Mark key={`${mark.day}${mark.title}`} row={row} x={x(new Date(mark.day))} y={y} title={mark.title} />
              ))}
          </g>
        );
      })}
    </svg>
  );
}

function Mark({ row, x, y, title }: { row: LifeMark["row"]; x: number; y: number; title: string }) {
  const shape = {
    stood: <path d={`M${x - 4},${y + 4} L${x + 5},${y} L${x - 4},${y - 4} Z`} fill="var(--soft)" />,
    incident: (
      <path
        d={`M${x - 4},${y - 4} L${x + 4},${y + 4} M${x - 4},${y + 4} L${x + 4},${y - 4}`}
        stroke="var(--short)"
        strokeWidth={2}
      />
    ),
    fitted: <rect x={x - 3.5} y={y - 3.5} width={7} height={7} fill="var(--accent)" />,
    job: <circle cx={x} cy={y} r={4} fill="none" stroke="var(--ink)" strokeWidth={1.6} />,
  }[row];
  return (
    <g>
      <title>{title}</title>
      {shape}
    </g>
  );
}
