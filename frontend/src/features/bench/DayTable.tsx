import { Link } from "react-router";
import { shortDay } from "@/lib/format";
import type { DayJob } from "./bench.queries";
import { PURPOSES } from "./local";

interface DayTableProps {
  jobs: DayJob[];
  chosen: number | null;
  onOpen: (id: number) => void;
}

const TONES: Record<string, string> = {
  stopped: "font-semibold text-short",
  waits: "font-semibold text-thin",
  goes: "font-semibold text-covered",
  ready: "font-semibold",
};

/** Jobs in hand: which machine, what for, who has it, where it stands, and the way it has gone. */
export function DayTable({ jobs, chosen, onOpen }: DayTableProps) {
  return (
    <>
      <table className="mt-2 w-full max-[700px]:block">
        <thead className="max-[700px]:sr-only">
          <tr className="border-b border-ink text-left">
            <th scope="col" className="py-1 pr-2">
              Job
            </th>
            <th scope="col" className="pr-2">
              Machine
            </th>
            <th scope="col" className="pr-2">
              What
            </th>
            <th scope="col" className="pr-2">
              Who
            </th>
            <th scope="col" className="pr-2">
              Where it stands
            </th>
            <th scope="col">Way</th>
          </tr>
        </thead>
        <tbody className="max-[700px]:block">
          {jobs.map((job) => (
            <tr
              key={job.line.id}
              aria-current={job.line.id === chosen ? "true" : undefined}
              className={`cursor-pointer border-b border-dotted border-rule align-top max-[700px]:grid max-[700px]:grid-cols-[64px_minmax(0,1fr)] max-[700px]:py-1 ${job.line.id === chosen ? "bg-pick" : ""}`}
              onClick={() => onOpen(job.line.id)}
            >
              <td className="py-1.5 pr-2 max-[700px]:row-span-5">
                <Link className="code" to={`/bench/${job.line.id}`}>
                  {job.line.id}
                </Link>
                <span className="block text-[0.88rem] whitespace-nowrap text-soft">{shortDay(job.line.opened_on)}</span>
              </td>
              <td className="py-1.5 pr-2 max-[700px]:py-0.5">
                <span className="code">{job.line.tag}</span>
                <span className="block text-[0.9rem] text-soft">
                  {job.line.model}, {job.line.site}
                </span>
              </td>
              <td className="py-1.5 pr-2 max-[700px]:py-0.5">
                <strong>{job.targets.length > 0 ? job.targets.join(", ") : PURPOSES[job.line.purpose]}</strong>
                <span className="block text-[0.9rem] text-soft">{job.line.symptom}</span>
              </td>
              <td className="py-1.5 pr-2 text-[0.93rem] max-[700px]:py-0.5">
                {job.line.in_hand_of ?? (
                  <span className="text-soft">
                    nobody
                    {job.line.opened_by && <span className="block text-[0.9rem]">opened by {job.line.opened_by}</span>}
                  </span>
                )}
              </td>
              <td className="py-1.5 pr-2 max-[700px]:py-0.5">
                <span className={TONES[job.tone] ?? ""}>{job.stands}</span>
                {job.line.failed_test && <span className="block font-semibold text-short">not cured</span>}
                {job.note && <span className="block text-[0.9rem] text-soft">{job.note}</span>}
              </td>
              <td className="py-1.5 max-[700px]:py-0.5">{job.way && <WayPicture way={job.way} />}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {jobs.some((job) => job.way) && (
        <p className="mt-1 text-[0.9rem] text-soft">
          The way goes in and comes back: down while it opens, up while it closes.
        </p>
      )}
    </>
  );
}

const WIDE = 96;
const HIGH = 22;
const EDGE = 4;

/** Down to where the part lies, and up again; the part that is done is drawn over it. */
function WayPicture({ way }: { way: NonNullable<DayJob["way"]> }) {
  const along = (share: number): [number, number] => {
    const x = EDGE + share * (WIDE - 2 * EDGE);
    const depth = share <= way.turn ? share / Math.max(way.turn, 0.01) : (1 - share) / Math.max(1 - way.turn, 0.01);
    return [x, EDGE + depth * (HIGH - 2 * EDGE)];
  };
  const whole = [along(0), along(way.turn), along(1)];
  const gone = way.at <= way.turn ? [along(0), along(way.at)] : [along(0), along(way.turn), along(way.at)];
  const [x, y] = along(way.at);
  const points = (line: [number, number][]): string => line.map((point) => point.join(",")).join(" ");
  return (
    <svg width={WIDE} height={HIGH} role="img" aria-label={`${way.done} of ${way.steps} steps`}>
      <polyline points={points(whole)} fill="none" stroke="var(--rule)" strokeWidth={3} />
      <polyline points={points(gone)} fill="none" stroke="var(--accent)" strokeWidth={3} />
      <circle cx={x} cy={y} r={4} fill="var(--accent)" />
    </svg>
  );
}
