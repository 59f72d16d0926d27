export interface PlaceBarsProps {
  shares: number[];
  colour: string;
  title: string;
}

const WIDTH = 384;
const HEIGHT = 130;
const LEFT = 34;

/** Where counts fell in their forecasts, by tenths: all bars alike where the forecasts are right, which the line marks. */
export function PlaceBars({ shares, colour, title }: PlaceBarsProps) {
  const even = 1 / Math.max(shares.length, 1);
  const top = Math.max(even * 2, ...shares) * 1.05;
  const y = (share: number): number => HEIGHT - 30 - (share / top) * (HEIGHT - 40);
  const step = (WIDTH - LEFT - 6) / Math.max(shares.length, 1);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={title}>
      {shares.map((share, place) => (
        <rect
          key={`${place}-${share}`}
          x={LEFT + place * step + 1}
          width={step - 2}
          y={y(share)}
          height={y(0) - y(share)}
          fill={colour}
          opacity={0.55}
        />
      ))}
      <line x1={LEFT} x2={WIDTH - 6} y1={y(0)} y2={y(0)} stroke="var(--ink)" />
      <line x1={LEFT} x2={WIDTH - 6} y1={y(even)} y2={y(even)} stroke="var(--ink)" strokeDasharray="5 3" />
      <text x={LEFT - 5} y={y(even) + 3.5} textAnchor="end" fontSize={10} fill="var(--soft)">
        {Math.round(even * 100)}%
      </text>
      {[0, 0.5, 1].map((level) => (
        <text
          key={level}
          x={LEFT + level * (WIDTH - LEFT - 6)}
          y={HEIGHT - 16}
          textAnchor={level === 0 ? "start" : level === 1 ? "end" : "middle"}
          fontSize={10}
          fill="var(--soft)"
        >
          {level === 0 ? "fewer than forecast" : level === 1 ? "more than forecast" : "median"}
        </text>
      ))}
      <text x={(LEFT + WIDTH) / 2} y={HEIGHT - 3} textAnchor="middle" fontSize={10} fill="var(--soft)">
        place of the count in its forecast, by tenths
      </text>
    </svg>
  );
}
