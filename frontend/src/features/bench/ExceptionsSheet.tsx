import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { shortDay } from "@/lib/format";
import { Failed, Nothing, Waiting } from "@/ui/Notice";
import { Sheet } from "@/ui/Sheet";
import { useExceptions } from "./bench.queries";

type Exceptional = Schemas["ExceptionView"];

/** What went another way than the rules have it: first what is to be settled, then the record of ninety days. */
export function ExceptionsSheet({ onClose }: { onClose: () => void }) {
  const found = useExceptions();
  const rows = found.data?.exceptions ?? [];
  const open = rows.filter((row) => row.cure !== null);
  return (
    <Sheet
      open
      onClose={onClose}
      title="Exceptions"
      wide
      about="Waivers, own approvals, quarantines, lost screws, failed tests, returns and counts booked at the bench, of the last ninety days."
    >
      {found.isError && <Failed title="No exceptions" detail={found.error.message} />}
      {!found.data && !found.isError && <Waiting what="Reading the journals" />}
      {found.data && rows.length === 0 && <Nothing>None on record in ninety days.</Nothing>}
      <Rows title="To settle" rows={open} />
      <Rows title="On record" rows={rows.filter((row) => row.cure === null)} />
    </Sheet>
  );
}

function Rows({ title, rows }: { title: string; rows: Exceptional[] }) {
  if (rows.length === 0) return null;
  return (
    <section aria-label={title} className="mb-5">
      <h3 className="border-b border-ink text-[1.15rem]">
        {title} <span className="text-soft">{rows.length}</span>
      </h3>
      <table className="w-full">
        <tbody>
          {rows.map((row) => (
            <tr
              key={`${row.what} ${row.job_id} ${row.on} ${row.words}`}
              className="border-b border-dotted border-rule align-top"
            >
              <td className={`py-1.5 pr-3 font-semibold whitespace-nowrap ${row.cure ? "text-short" : "text-thin"}`}>
                {row.what}
              </td>
              <td className="pr-3">
                {row.words}
                {row.cure && <span className="block text-soft">Settled by: {row.cure}</span>}
              </td>
              <td className="pr-3 whitespace-nowrap">
                <Link className="text-accent underline" to={`/bench/${row.job_id}`}>
                  job {row.job_id}
                </Link>{" "}
                <span className="code">{row.tag}</span>
              </td>
              <td className="pr-3 whitespace-nowrap text-soft">{row.by}</td>
              <td className="text-right whitespace-nowrap text-soft">{shortDay(row.on)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
