import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { shortDay } from "@/lib/format";
import { useExceptions } from "./bench.queries";
import { OpenForm } from "./OpenForm";

const SHOWN = 6;
const KEPT_APART = ["quarantine", "mains, referred"];

/** Beside the day's work while no job is chosen: opening one, what has to be settled, machines kept apart. */
export function DayRight({ session }: { session: Schemas["SessionState"] }) {
  const rows = useExceptions().data?.exceptions ?? [];
  const apart = rows.filter((row) => KEPT_APART.includes(row.what) && row.cure !== null);
  const others = rows.filter((row) => !apart.includes(row)).slice(0, SHOWN);
  return (
    <>
      <OpenForm session={session} tag="" targets={[]} />
      {apart.length > 0 && (
        <section className="px-4 pb-4" aria-label="Kept apart">
          <h2 className="text-[1.25rem] text-short">Kept apart</h2>
          <ul>
            {apart.map((row) => (
              <li key={`${row.job_id} ${row.what}`} className="border-b border-dotted border-rule py-1.5">
                <Link className="code text-accent underline" to={`/bench/${row.job_id}`}>
                  {row.tag}
                </Link>{" "}
                {row.what}: {row.words}, since {shortDay(row.on)}.
                <span className="block text-soft">Opens no job. Settled by: {row.cure}.</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {others.length > 0 && (
        <section className="px-4 pb-4" aria-label="Exceptions">
          <h2 className="text-[1.25rem]">Exceptions</h2>
          <table className="w-full">
            <tbody>
              {others.map((row) => (
                <tr
                  key={`${row.what} ${row.job_id} ${row.on} ${row.words}`}
                  className="border-b border-dotted border-rule align-top"
                >
                  <td className={`py-1.5 pr-3 font-semibold ${row.cure ? "text-short" : "text-thin"}`}>{row.what}</td>
                  <td className="py-1.5 pr-3">
                    <Link className="text-accent underline" to={`/bench/${row.job_id}`}>
                      job {row.job_id}
                    </Link>
                    , {row.words}
                  </td>
                  <td className="py-1.5 text-right whitespace-nowrap text-soft">{shortDay(row.on)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </>
  );
}
