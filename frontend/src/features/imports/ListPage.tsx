import { useRef, useState } from "react";
import { Link, useOutletContext } from "react-router";
import { isProblem, type Schemas } from "@/api/client";
import { day, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Failed, Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { AtWork } from "./AtWork";
import { Difference } from "./Difference";
import { type Look, type Settled, useApply, useLists, useLook, useUndo, WRITTEN } from "./lists.queries";
import { Understood } from "./Understood";

type Session = Schemas["SessionState"];

const FRESH: Settled = {
  sheet: null,
  columns: {},
  day_first: null,
  names: {},
  gone: null,
  delivered: null,
  decimal: null,
};

/** A list as the company has it: what it is taken for on the left, what it says beside the record on the right. */
export default function ListPage() {
  const session = useOutletContext<Session>();
  const lists = useLists();
  const [file, setFile] = useState<File | null>(null);
  const [source, setSource] = useState("");
  const [on, setOn] = useState(session.as_of);
  const [settled, setSettled] = useState<Settled>(FRESH);
  const [kind, setKind] = useState<string | null>(null);
  const look = useLook();
  // What was seen last stays on the page while an answer is looked at: nothing flickers, and the focus stays.
  const [seen, setSeen] = useState<Look>();
  const apply = useApply();
  const picker = useRef<HTMLInputElement>(null);
  const lead = session.user?.role === "lead";
  const again = (next: Settled, given = file, of = kind): void => {
    setSettled(next);
    const said = { kind: of, source, list_on: on, settled: next, digest: null };
    if (given) look.mutate({ file: given, said }, { onSuccess: setSeen, onError: () => setSeen(undefined) });
  };
  const settle = (change: Partial<Settled>): void => {
    apply.reset();
    again({ ...settled, ...change });
  };
  const problem = isProblem(look.error) ? look.error : isProblem(apply.error) ? apply.error : null;
  return (
    <Spread
      name="list"
      share={50}
      least={36}
      leftLabel="The list"
      rightLabel="The difference"
      left={
        <div className="p-4">
          <h1 className="text-[1.75rem]">A list as you have it</h1>
          <p className="max-w-[62ch] text-soft">
            Machines, parts, shelves, purchases, tickets or readings: XLSX, ODS or CSV, title rows and all. It is held
            against what is on record, and what it says is applied as one and undone as one.{" "}
            <Link className="text-accent underline" to="/import">
              Other files
            </Link>
          </p>
          {!lead && <p className="mt-4 font-semibold text-thin">Applying lists needs the role lead.</p>}
          {lead && (
            <div className="mt-3 grid gap-3">
              <div className="grid grid-cols-2 gap-3">
                <TextField
                  label="Where it comes from"
                  hint="What is settled is remembered under this name."
                  list="list-sources"
                  value={source}
                  placeholder={seen?.source ?? "the last of its kind"}
                  fault={problem?.at("source") ?? undefined}
                  onChange={(event) => setSource(event.target.value)}
                />
                <TextField
                  label="The day it was made"
                  type="date"
                  value={on}
                  fault={problem?.at("list_on") ?? undefined}
                  onChange={(event) => setOn(event.target.value)}
                />
                <datalist id="list-sources">
                  {[...new Set(lists.data?.sources.map((one) => one.name))].map((one) => (
                    <option key={one} value={one} />
                  ))}
                </datalist>
              </div>
              <label className="font-semibold">
                File{" "}
                <input
                  ref={picker}
                  type="file"
                  accept=".csv,.txt,.tsv,.xlsx,.xlsm,.xls,.ods"
                  className="border border-soft bg-leaf font-normal file:mr-2 file:border-0 file:border-r file:border-solid file:border-soft file:bg-pick file:px-3 file:py-1.5 file:font-semibold file:text-ink"
                  onChange={(event) => {
                    const chosen = event.target.files?.[0] ?? null;
                    setFile(chosen);
                    setKind(null);
                    setSeen(undefined);
                    apply.reset();
                    again(FRESH, chosen, null);
                  }}
                />
              </label>
              {file && (
                <p>
                  <Button disabled={look.isPending} onClick={() => settle({})}>
                    Look again
                  </Button>
                </p>
              )}
            </div>
          )}
          {look.work && <AtWork what="Looking at" work={look.work} />}
          {look.isPending && !seen && !look.work && <Waiting what="Reading the list" />}
          {look.isError && (
            <Failed
              title="It cannot be used yet"
              detail={problem?.faults.map((one) => one.message).join("; ") || look.error.message}
            />
          )}
          {seen && (
            <Understood
              look={seen}
              looking={look.isPending}
              settled={settled}
              onSettle={settle}
              onKind={(of) => {
                setKind(of);
                apply.reset();
                again(FRESH, file, of);
              }}
            />
          )}
          <Applied />
        </div>
      }
      right={
        <Right
          look={seen}
          done={apply.isSuccess}
          sending={apply.isPending}
          looking={look.isPending}
          delivered={settled.delivered ?? seen?.delivered ?? false}
          fault={faultOf(apply.error)}
          onApply={(found) =>
            file &&
            apply.mutate(
              {
                file,
                said: { kind: found.kind, source: found.source, list_on: found.list_on, settled, digest: found.digest },
              },
              { onSuccess: () => again(settled) },
            )
          }
          onSettle={settle}
        />
      }
    />
  );
}

/** What went wrong in a person's words; null where nothing did. */
function faultOf(error: Error | null): string | null {
  if (!error) return null;
  return (isProblem(error) ? error.faults[0]?.message : null) ?? error.message;
}

interface RightProps {
  look: Look | undefined;
  done: boolean;
  sending: boolean;
  looking: boolean;
  delivered: boolean;
  fault: string | null;
  onApply: (look: Look) => void;
  onSettle: (change: Partial<Settled>) => void;
}

function Right({ look, done, sending, looking, delivered, fault, onApply, onSettle }: RightProps) {
  if (!look) {
    return (
      <div className="p-4 text-soft">
        <h2 className="text-[1.25rem] text-ink">What it would change</h2>
        <p className="mt-1 max-w-[60ch]">
          Choose a file. What is new, moved, changed or gone is shown before anything is written, with rows that cannot
          be used and why. Next month the same list asks only what is new.
        </p>
      </div>
    );
  }
  return (
    <Difference
      look={look}
      done={done}
      sending={sending}
      looking={looking}
      delivered={delivered}
      fault={fault}
      onApply={() => onApply(look)}
      onSettle={onSettle}
    />
  );
}

/** Lists that were applied; the latest of a source can be undone as one. */
function Applied() {
  const lists = useLists();
  const undo = useUndo();
  if (!lists.data || lists.data.lists.length + lists.data.under_way.length === 0) return null;
  return (
    <section className="mt-6" aria-label="Applied lists">
      <h2 className="border-b border-ink pb-0.5 font-sans text-[1rem]">Applied</h2>
      {lists.data.under_way.map((one) => (
        <AtWork key={one.id} what={one.what === "undo" ? "Undoing" : "Applying"} work={one} />
      ))}
      <ul>
        {lists.data.lists.map((one) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-3 border-b border-dotted border-rule py-1">
            <span>
              {one.source}, list of {day(one.list_on)}: {countWords(one.counts)}
              <span className="block text-[0.9rem] text-soft">
                {one.file_name}
                {one.author ? `, ${one.author}` : ""}
                {one.undone_at ? ", undone" : ""}
              </span>
            </span>
            {!one.undone_at && (
              <button
                type="button"
                className="ml-auto min-h-[25px] text-accent underline"
                disabled={undo.isPending}
                aria-label={`Undo the list of ${day(one.list_on)}`}
                onClick={() => undo.mutate(one)}
              >
                undo
              </button>
            )}
          </li>
        ))}
      </ul>
      {undo.isError && (
        <p role="alert" className="mt-1 font-semibold text-short">
          {faultOf(undo.error)}
        </p>
      )}
      {undo.isSuccess && (
        <p role="status">
          {plural(undo.data.changes, "change is", "changes are")} taken back.
          {undo.data.stays.length > 0 &&
            ` On record all the same, with nothing in it: ${undo.data.stays.slice(0, 6).join(", ")}${undo.data.stays.length > 6 ? " and others" : ""}.`}
        </p>
      )}
    </section>
  );
}

function countWords(counts: Record<string, number>): string {
  const words = WRITTEN.filter((name) => (counts[name] ?? 0) > 0).map((name) => `${counts[name]} ${name}`);
  return words.length > 0 ? words.join(", ") : "nothing new";
}
