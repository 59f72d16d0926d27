import { type FormEvent, useState } from "react";
import { Link, useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { shortDay } from "@/lib/format";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Failed, Nothing, Waiting } from "@/ui/Notice";
import { Sheet } from "@/ui/Sheet";
import { useCustody, useExceptions } from "./bench.queries";

type Exceptional = Schemas["ExceptionView"];

/** What went another way than the rules have it: first what is to be settled, then the record of ninety days. */
export function ExceptionsSheet({ onClose }: { onClose: () => void }) {
  const may = useOutletContext<Schemas["SessionState"]>().user?.role !== "reader";
  const found = useExceptions();
  const rows = found.data?.exceptions ?? [];
  const open = rows.filter((row) => row.cure !== null);
  return (
    <Sheet
      open
      onClose={onClose}
      title="Exceptions"
      wide
      about="Waivers, own approvals, quarantines, contradictions, lost screws, failed tests, returns, parts from no shelf and counts booked at the bench, of the last ninety days; drives that are out of their machines."
    >
      {found.isError && <Failed title="No exceptions" detail={found.error.message} />}
      {!found.data && !found.isError && <Waiting what="Reading the journals" />}
      {found.data && rows.length === 0 && <Nothing>None on record in ninety days.</Nothing>}
      <Rows title="To settle" rows={open} may={may} />
      <Rows title="On record" rows={rows.filter((row) => row.cure === null)} may={may} />
    </Sheet>
  );
}

function Rows({ title, rows, may }: { title: string; rows: Exceptional[]; may: boolean }) {
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
              <td className="py-1.5 pr-3">
                {row.words}
                {row.cure && <span className="block text-soft">Settled by: {row.cure}</span>}
                {row.unit_id !== null && may && <Custody unit={row.unit_id} words={row.words} />}
              </td>
              <td className="py-1.5 pr-3 whitespace-nowrap">
                <Link className="text-accent underline" to={`/bench/${row.job_id}`}>
                  job {row.job_id}
                </Link>{" "}
                <span className="code">{row.tag}</span>
              </td>
              <td className="py-1.5 pr-3 whitespace-nowrap text-soft">{row.by}</td>
              <td className="py-1.5 text-right whitespace-nowrap text-soft">{shortDay(row.on)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** The next line of a drive's custody. */
function Custody({ unit, words }: { unit: number; words: string }) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const custody = useCustody(unit);
  if (!open) {
    return (
      <button
        type="button"
        className="block min-h-[25px] text-accent underline"
        aria-label={`write where it is now: ${words}`}
        onClick={() => setOpen(true)}
      >
        write where it is now
      </button>
    );
  }
  const send = (event: FormEvent): void => {
    event.preventDefault();
    custody.mutate(text, { onSuccess: () => setOpen(false) });
  };
  return (
    <form className="mt-1 flex items-end gap-2" onSubmit={send}>
      <TextField
        label="Where it is now, who has it, what became of its data"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Button type="submit" disabled={!text.trim() || custody.isPending}>
        Write it
      </Button>
    </form>
  );
}
