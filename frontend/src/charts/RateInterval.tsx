export interface RateIntervalProps {
  raw: { rate: number; low: number; high: number } | null;
  shrunk: { rate: number; low: number; high: number } | null;
  most: number;
  colour: string;
}

const WIDTH = 150;
const HEIGHT = 16;

/** One row of the caterpillar: the raw rate as a ring with a thin interval, the shrunk one as a disc with a thick one. */
export function RateInterval({ raw, shrunk, most, colour }: RateIntervalProps) {
  const x = (rate: number): number => Math.min(rate / most, 1.02) * (WIDTH - 10) + 5;
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="block h-4 w-[150px]" aria-hidden>
      {raw && (
        <>
          <line x1={x(raw.low)} x2={x(raw.high)} y1={4.5} y2={4.5} stroke="var(--soft)" strokeWidth={1} />
          <circle cx={x(raw.rate)} cy={4.5} r={2.6} fill="var(--leaf)" stroke="var(--soft)" strokeWidth={1.2} />
        </>
      )}
      {shrunk && (
        <>
          <line
            x1={x(shrunk.low)}
            x2={x(shrunk.high)}
            y1={11.5}
            y2={11.5}
            stroke={colour}
            strokeWidth={3}
            opacity={0.5}
          />
          <circle cx={x(shrunk.rate)} cy={11.5} r={3} fill={colour} />
        </>
      )}
    </svg>
  );
}
