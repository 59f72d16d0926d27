import { Link } from "react-router";
import { day as dayWords, figure, percent, plural, shortDay } from "@/lib/format";
import type { Day } from "./bench.queries";

/** What comes up beside the jobs: planned swaps, packs and drives read as worn, findings nobody settled. */
export function ComesUp({ day, today }: { day: Day; today: string }) {
  return (
    <>
      {day.jobs.length === 0 && (
        <p className="mt-2 max-w-[62ch]">
          A job is opened beside this, from a machine's tag, typed or scanned; machines come with{" "}
          <Link className="text-accent underline" to="/import/lists">
            a list as you have it
          </Link>
          .
        </p>
      )}
      {day.swaps.length + day.worn.length === 0 && (
        <p className="mt-2 max-w-[62ch] text-soft">
          No swap is planned, and no reading on record is near the share at which a part is swapped; of what was never
          read nothing is known.
        </p>
      )}
      {day.swaps.length > 0 && (
        <section className="mt-5" aria-label="Planned swaps">
          <h2 className="border-b border-ink text-[1.15rem]">Planned swaps</h2>
          <table className="w-full">
            <tbody>
              {day.swaps.map((swap) => (
                <tr
                  key={`${swap.planned_on} ${swap.part_number} ${swap.site_code}`}
                  className="border-b border-dotted border-rule align-top"
                >
                  <td
                    className={`py-1 pr-3 whitespace-nowrap ${swap.planned_on < today ? "font-semibold text-short" : ""}`}
                  >
                    {dayWords(swap.planned_on)}
                    {swap.planned_on < today && ", over"}
                  </td>
                  <td className="py-1 pr-3">
                    {swap.part_name} into {figure(swap.quantity)} {swap.model}, {swap.site}
                    {swap.note && <span className="text-soft"> {swap.note}</span>}
                  </td>
                  <td
                    className={`py-1 text-right whitespace-nowrap ${swap.kept >= swap.quantity ? "text-covered" : "text-short"}`}
                  >
                    {figure(swap.kept)} of {figure(swap.quantity)} kept
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {day.worn.length > 0 && (
        <section className="mt-5" aria-label="Worn by their readings">
          <h2 className="border-b border-ink text-[1.15rem]">
            Worn by their readings{" "}
            <span className="text-soft">{figure(day.worn_count)} below the share they are swapped at, or near it</span>
          </h2>
          <table className="w-full">
            <tbody>
              {day.worn.map((unit) => (
                <tr key={`${unit.tag} ${unit.part_number}`} className="border-b border-dotted border-rule align-top">
                  <td className="code whitespace-nowrap py-1 pr-3">
                    <Link className="text-accent underline" to={`/bench/new?tag=${encodeURIComponent(unit.tag)}`}>
                      {unit.tag}
                    </Link>
                  </td>
                  <td className="py-1 pr-3">
                    {unit.part_name}, {unit.model}, {unit.site}
                  </td>
                  <td className="py-1 text-right whitespace-nowrap">
                    <span className={unit.share < unit.limit ? "font-semibold text-short" : ""}>
                      {figure(unit.share * 100, 1)}%
                    </span>{" "}
                    now, swapped below {percent(unit.limit)}
                    <span className="text-soft">, {shortDay(unit.read_on)}</span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {day.worn_count > day.worn.length && (
            <p className="text-[0.9rem] text-soft">The {day.worn.length} lowest are shown.</p>
          )}
        </section>
      )}
      {day.open_findings > 0 && (
        <p className="mt-4">
          <Link className="text-accent underline" to="/ledger">
            {plural(day.open_findings, "finding is", "findings are")} open
          </Link>
          : settle them while the machines are remembered.
        </p>
      )}
    </>
  );
}
