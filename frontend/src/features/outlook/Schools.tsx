import { figure } from "@/lib/format";
import { SCHOOL_NAMES } from "@/lib/words";
import type { Plate } from "./outlook.queries";

const WIDTH = 150;

/** The year's demand of the part under both schools, and which of them the plan takes. */
export function Schools({ plate, colour }: { plate: Plate; colour: string }) {
  if (plate.schools.length < 2) return null;
  const most = Math.max(...plate.schools.map((school) => school.high), 1);
  const x = (parts: number): number => 4 + (parts / most) * (WIDTH - 8);
  return (
    <section className="mt-4" aria-label="Schools compared">
      <h3 className="flex items-baseline justify-between border-b border-rule pb-0.5 font-sans text-[1rem]">
        Schools compared <span className="font-normal text-[0.93rem] text-soft">parts in 365 days, mean, 5–95%</span>
      </h3>
      <table className="w-full">
        <tbody>
          {plate.schools.map((school) => (
            <tr key={school.school} className="border-b border-dotted border-rule">
              <th scope="row" className="py-0.5 font-normal">
                {SCHOOL_NAMES[school.school] ?? school.school}
                {school.taken && <strong className="ml-2 text-[0.9em]">taken</strong>}
              </th>
              <td aria-hidden="true" className="w-[150px]">
                <svg viewBox={`0 0 ${WIDTH} 12`} className="block h-3 w-[150px]" aria-hidden>
                  <line
                    x1={x(school.low)}
                    x2={x(school.high)}
                    y1={6}
                    y2={6}
                    stroke={colour}
                    strokeWidth={3}
                    opacity={0.5}
                  />
                  <circle
                    cx={x(school.expected)}
                    cy={6}
                    r={3.2}
                    fill={school.taken ? colour : "var(--leaf)"}
                    stroke={colour}
                    strokeWidth={1.2}
                  />
                </svg>
              </td>
              <td className="pl-2 text-right font-semibold">{figure(school.expected, 1)}</td>
              <td className="w-[80px] pl-2 text-right text-soft">
                {school.low}–{school.high}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-[0.88rem] text-soft">Why: {plate.school_reason}.</p>
    </section>
  );
}
