import { useState } from "react";
import { Link, useOutletContext, useParams } from "react-router";
import type { Schemas } from "@/api/client";
import { type LifeMark, LifeOfMachine } from "@/charts/LifeOfMachine";
import { day, figure, plural } from "@/lib/format";
import { DUTY_NAMES, FINDING_NAMES, KIND_NAMES } from "@/lib/words";
import { MachineNotes } from "@/shared/MachineNotes";
import { Button } from "@/ui/Button";
import { Failed, Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { DisposeSheet, QuarantineSheet } from "./LeavingSheets";
import { MachineCurves, MachineMore, MachineSaid } from "./MachineSaid";
import { EditSheet, MoveSheet, RetireSheet, ReturnSheet } from "./MachineSheets";
import { type Machine, useMachine } from "./machine.queries";

type Open = "edit" | "move" | "retire" | "return" | "dispose" | "quarantine" | null;
type Session = Schemas["SessionState"];

const HAPPENED: Record<string, string> = {
  fitted: "fitted into",
  held: "on this day or later fitted into",
};

/** One machine: what is in it on the left, what happened to it on the right, with buttons that fit. */
export default function MachinePage() {
  const { tag = "" } = useParams();
  const today = useOutletContext<Session>().as_of;
  const machine = useMachine(tag);
  if (machine.isError) return <Failed title="No such machine" detail={machine.error.message} />;
  if (!machine.data) return <Waiting what="Reading the machine" />;
  return (
    <Spread
      name="machine"
      share={56}
      least={36}
      leftLabel="Machine"
      rightLabel="History"
      left={<Inside machine={machine.data} />}
      right={<History machine={machine.data} today={today} />}
    />
  );
}

function Inside({ machine }: { machine: Machine }) {
  const session = useOutletContext<Session>();
  const [open, setOpen] = useState<Open>(null);
  const close = (): void => setOpen(null);
  return (
    <div className="p-4">
      <h1 className="text-[1.75rem]">
        <span className="code">{machine.tag}</span>
      </h1>
      <About machine={machine} session={session} />
      <Acts machine={machine} role={session.user?.role ?? "reader"} onOpen={setOpen} />
      <MachineNotes notes={machine.notes} />
      <MachineSaid machine={machine} />
      <Held machine={machine} today={session.as_of} />
      <MachineMore machine={machine} currency={session.currency} />
      {open === "edit" && <EditSheet machine={machine} onClose={close} />}
      {open === "move" && <MoveSheet machine={machine} session={session} onClose={close} />}
      {open === "retire" && <RetireSheet machine={machine} today={session.as_of} onClose={close} />}
      {open === "return" && <ReturnSheet machine={machine} onClose={close} />}
      {open === "dispose" && <DisposeSheet machine={machine} today={session.as_of} onClose={close} />}
      {open === "quarantine" && <QuarantineSheet machine={machine} onClose={close} />}
    </div>
  );
}

/** What it is and where it stands, in a sentence. */
function About({ machine, session }: { machine: Machine; session: Session }) {
  const site = session.sites.find((one) => one.code === machine.site);
  return (
    <p className="mt-1 max-w-[62ch] font-serif text-[1.15rem] leading-snug">
      <Link className="text-accent underline" to={`/models/${machine.model_id}`}>
        {machine.model}
      </Link>
      {machine.retired_on ? (
        <strong>
          {", "}retired on {day(machine.retired_on)}, stood last
        </strong>
      ) : (
        ""
      )}{" "}
      at {site?.name ?? machine.site ?? "no site"}, in service since {day(machine.in_service_on)},{" "}
      {DUTY_NAMES[machine.fields.duty]}
      {machine.fields.retire_planned_on && !machine.retired_on
        ? `, to be retired on ${day(machine.fields.retire_planned_on)}`
        : ""}
      {machine.fields.serial ? `; serial ${machine.fields.serial}` : "; its serial is not on record"}.
      {machine.disposed_on && (
        <>
          {" "}
          It left for good on {day(machine.disposed_on)}: {machine.disposal}.
        </>
      )}
    </p>
  );
}

interface ActsProps {
  machine: Machine;
  role: string;
  onOpen: (what: Open) => void;
}

/** What can be done with it, as it stands, by whoever looks. */
function Acts({ machine, role, onOpen }: ActsProps) {
  const lead = role === "lead";
  return (
    <p className="mt-3 flex flex-wrap gap-2">
      {!machine.retired_on && role !== "reader" && (
        <Link
          className="rounded-[2px] border border-ink bg-ink px-3 py-1.5 font-semibold text-leaf"
          to={`/bench/new?tag=${encodeURIComponent(machine.tag)}`}
        >
          Open a job
        </Link>
      )}
      {lead && <Button onClick={() => onOpen("edit")}>Change</Button>}
      {lead && !machine.retired_on && <Button onClick={() => onOpen("move")}>Move</Button>}
      {lead && !machine.retired_on && <Button onClick={() => onOpen("retire")}>Retire</Button>}
      {lead && machine.retired_on && !machine.disposed_on && (
        <Button onClick={() => onOpen("dispose")}>Dispose of it</Button>
      )}
      {lead && machine.retired_on && <Button onClick={() => onOpen("return")}>It never left</Button>}
      {!machine.retired_on && role !== "reader" && <Button onClick={() => onOpen("quarantine")}>Quarantine</Button>}
      <a
        className="rounded-[2px] border border-ink px-3 py-1.5 font-semibold hover:bg-pick"
        href={`/api/v1/fleet/labels.pdf?tags=${encodeURIComponent(machine.tag)}&single=true`}
        download
      >
        Label
      </a>
    </p>
  );
}

const DAYS_PER_YEAR = 365.25;

function Held({ machine, today }: { machine: Machine; today: string }) {
  return (
    <section className="mt-4" aria-label="What is in it">
      <h2 className="font-sans text-[1rem] font-semibold">What is in it</h2>
      {machine.held.length > 0 && (
        <table className="w-full">
          <thead>
            <tr className="border-b border-ink">
              <th scope="col">Position</th>
              <th scope="col">Part</th>
              <th scope="col">Since</th>
              <th scope="col" className="text-right">
                Years old
              </th>
            </tr>
          </thead>
          <tbody>
            {machine.held.map((part) => (
              <tr key={`${part.key}${part.fitted_on}`} className="border-b border-dotted border-rule align-top">
                <th scope="row" className="py-1 pr-3 font-semibold">
                  {part.label}
                  <span className="block text-[0.9rem] font-normal text-soft">
                    {KIND_NAMES[part.kind] ?? part.kind}
                  </span>
                </th>
                <td className="py-1 pr-3">
                  <span className="code">{part.number}</span> {part.name}
                  <span className="block text-[0.9rem] text-soft">
                    {[
                      part.serial ? `serial ${part.serial}` : null,
                      part.share !== null && part.read_on
                        ? `${figure(part.share * 100)}% on ${day(part.read_on)}`
                        : null,
                      part.warranty_until
                        ? `warranty ${part.warranty_until < today ? "ended" : "to"} ${day(part.warranty_until)}`
                        : null,
                    ]
                      .filter(Boolean)
                      .join(", ")}
                  </span>
                </td>
                <td className="py-1 pr-3">
                  <span className="whitespace-nowrap">{day(part.fitted_on)}</span>
                  {part.age_span_days > 0 && (
                    <span className="block text-[0.9rem] text-soft">or later: nobody knows</span>
                  )}
                </td>
                <td className="py-1 text-right whitespace-nowrap">
                  {part.age_span_days > 0 && `${figure((part.age_days - part.age_span_days) / DAYS_PER_YEAR, 1)} to `}
                  {figure(part.age_days / DAYS_PER_YEAR, 1)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {machine.lacking.length > 0 && (
        <p className="mt-2 text-thin">
          Nothing is on record in {machine.lacking.join(", ")}: it counts in no rate, and in demand only as a range.
        </p>
      )}
      {machine.held.length === 0 && machine.lacking.length === 0 && (
        <p className="text-soft">Its model's page names no position yet.</p>
      )}
    </section>
  );
}

const ROWS: Record<string, LifeMark["row"]> = {
  incident: "incident",
  fitted: "fitted",
  removed: "fitted",
  stands: "stood",
  job: "job",
};

/** Events as marks on its line of time; what it was delivered with is no event. */
const marksOf = (machine: Machine): LifeMark[] =>
  machine.events.flatMap((event) => {
    const row = ROWS[event.what];
    const delivered = event.what === "fitted" && event.day === machine.in_service_on;
    return row && !delivered ? [{ day: event.day, row, title: `${day(event.day)}: ${event.words}` }] : [];
  });

function History({ machine, today }: { machine: Machine; today: string }) {
  const last = machine.disposed_on ?? machine.retired_on ?? today;
  return (
    <div className="p-4">
      <h2 className="text-[1.5rem]">What happened</h2>
      <LifeOfMachine
        from={machine.in_service_on}
        to={last}
        marks={marksOf(machine)}
        title={`${machine.tag} from ${day(machine.in_service_on)} to ${day(last)}; the list below says the same`}
      />
      <MachineCurves machine={machine} today={today} />
      <p>
        <Link className="text-accent underline" to={`/ledger?q=${encodeURIComponent(machine.tag)}`}>
          In the Ledger
        </Link>
      </p>
      <ol className="mt-2">
        {machine.events.map((event) => (
          <li
            key={`${event.day}${event.what}${event.words}${event.more}${event.number}`}
            className="grid grid-cols-[7.5rem_1fr] border-b border-dotted border-rule py-1"
          >
            <span className="text-soft">{day(event.day)}</span>
            <span>
              <Told event={event} tag={machine.tag} />
            </span>
          </li>
        ))}
      </ol>
      {machine.changes.length > 0 && (
        <section aria-label="Changed by hand" className="mt-4">
          <h3 className="font-sans text-[1rem] font-semibold">
            Changed by hand: {plural(machine.changes.length, "entry", "entries")}
          </h3>
          <ul>
            {machine.changes.map((change) => (
              <li
                key={`${change.changed_on}${change.field}${change.before}${change.after}`}
                className="border-b border-dotted border-rule py-0.5"
              >
                {day(change.changed_on)}: {change.field} {change.before} → {change.after}
                {change.author ? `, ${change.author}` : ""}
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

function Told({ event, tag }: { event: Machine["events"][number]; tag: string }) {
  if (event.what === "incident") {
    return (
      <>
        <Link className="text-accent underline" to={`/ledger/${event.number}?q=${encodeURIComponent(tag)}`}>
          {event.words}
        </Link>
        <span className="text-soft">, {FINDING_NAMES[event.more]?.toLowerCase() ?? event.more}</span>
      </>
    );
  }
  if (event.what === "job") {
    return (
      <>
        Job:{" "}
        <Link className="text-accent underline" to={`/bench/${event.number}`}>
          {event.words || "no complaint"}
        </Link>
        <span className="text-soft">, {event.more.replaceAll("_", " ")}</span>
      </>
    );
  }
  if (event.what === "stands") return <>Stands at {event.words}</>;
  return (
    <>
      <span className="code">{event.words}</span> {HAPPENED[event.what] ?? "out of"} {event.more}
    </>
  );
}
