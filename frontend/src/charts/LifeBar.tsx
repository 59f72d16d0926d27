export interface LifeBarProps {
  from: number;
  to: number;
  /** Age at which a part that a check found failed was last seen in order. */
  seenGood: number | null;
  most: number;
  counted: string;
  colour: string;
}

const WIDE = 220;
const HIGH = 16;

/** One life by age: the stretch under observation, and a mark where it ended: filled for a failure, hollow for an open finding.

    Where a check found the failure, the stretch in which it lies is thin. */
export function LifeBar({ from, to, seenGood, most, counted, colour }: LifeBarProps) {
  const x = (age: number) => 4 + ((WIDE - 8) * age) / most;
  const failed = counted === "confirmed" || counted === "open";
  return (
    <svg viewBox={`0 0 ${WIDE} ${HIGH}`} width={WIDE} height={HIGH} aria-hidden className="block">
      <line x1={x(0)} x2={x(most)} y1={HIGH / 2} y2={HIGH / 2} stroke="var(--rule)" />
      {to > from && (
        <line x1={x(from)} x2={x(seenGood ?? to)} y1={HIGH / 2} y2={HIGH / 2} stroke={colour} strokeWidth={3} />
      )}
      {seenGood !== null && <line x1={x(seenGood)} x2={x(to)} y1={HIGH / 2} y2={HIGH / 2} stroke={colour} />}
      {failed && (
        <circle
          cx={x(to)}
          cy={HIGH / 2}
          r={4}
          fill={counted === "confirmed" ? colour : "var(--leaf)"}
          stroke={colour}
          strokeWidth={1.5}
        />
      )}
      {!failed && counted !== "in_service" && (
        <line x1={x(to)} x2={x(to)} y1={3} y2={HIGH - 3} stroke="var(--ink)" strokeWidth={1.5} />
      )}
    </svg>
  );
}
