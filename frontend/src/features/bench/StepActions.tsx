import { type KeyboardEvent, useEffect, useState } from "react";
import { TextField } from "@/ui/Field";
import { TouchButton, TouchChoice, TouchToggle } from "@/ui/Touch";
import { useInHand } from "./bench.queries";
import { type Job, type LocalJob, type Step, toPutBack } from "./local";
import { Scanner } from "./Scanner";

export interface ActionProps {
  job: Job;
  local: LocalJob;
  step: Step;
  onDone: (data: Record<string, unknown>) => void;
}

/** What a step of each phase asks for before it is done. The form's name ties it to the Done button. */
export function StepActions(props: ActionProps) {
  if (props.step.phase === "opening") return <OpeningStep key={props.step.id} {...props} />;
  if (props.step.phase === "swap") return <SwapStep key={props.step.id} {...props} />;
  if (props.step.id === "test") return <TestStep {...props} />;
  if (props.step.phase === "closing") return <ClosingStep key={props.step.id} {...props} />;
  return <StepForm onDone={() => props.onDone({})} />;
}

export const STEP_FORM = "bench-step";

/** Done is a form of its own, so that Space, the button and Enter in a field all do the same. */
function StepForm({ children, onDone }: { children?: React.ReactNode; onDone: () => void }) {
  return (
    <form
      id={STEP_FORM}
      className={children ? "mt-4 grid gap-3" : ""}
      onSubmit={(event) => {
        event.preventDefault();
        onDone();
      }}
    >
      {children}
    </form>
  );
}

/** Screws come out: groups nobody looked at are asked, and a count that differs can be said. */
function OpeningStep({ step, onDone }: ActionProps) {
  const [captive, setCaptive] = useState<Record<string, boolean>>({});
  const [counted, setCounted] = useState<Record<string, string>>({});
  const [counting, setCounting] = useState(false);
  const asked = step.screws.filter((group) => group.unknown > 0);
  const uncounted = step.screws.filter(
    (group) => (group.least || group.about) && captive[group.group] !== true, // nobody ever counted them: asked, not offered
  );
  const loose = step.screws.filter((group) => group.loose > 0 && !uncounted.includes(group));
  const send = (): void => {
    const screws = Object.fromEntries(
      Object.entries(counted)
        .filter(([, count]) => count.trim() !== "")
        .map(([group, count]) => [group, Number(count)]),
    );
    onDone({ captive, ...(Object.keys(screws).length ? { screws } : {}) });
  };
  return (
    <StepForm onDone={send}>
      {asked.map((group) => (
        <TouchChoice
          key={group.group}
          label={`${about(group, group.unknown)} × ${group.group}: do they stay in (captive), or come out loose?`}
          value={captive[group.group] === undefined ? null : captive[group.group] ? "captive" : "loose"}
          choices={[
            ["loose", "come out loose"],
            ["captive", "stay in"],
          ]}
          onChange={(value) => setCaptive({ ...captive, [group.group]: value === "captive" })}
        />
      ))}
      {uncounted.map((group) => (
        <TextField
          key={group.group}
          label={`${group.group}: nobody has counted them (the page: ${about(group, group.loose + group.unknown)}). How many came out?`}
          className="min-h-[48px] max-w-[160px]"
          inputMode="numeric"
          required
          value={counted[group.group] ?? ""}
          onChange={(event) => setCounted({ ...counted, [group.group]: event.target.value })}
        />
      ))}
      {loose.length > 0 && !counting && (
        <button
          type="button"
          className="min-h-[44px] justify-self-start text-accent underline"
          onClick={() => setCounting(true)}
        >
          Another number came out
        </button>
      )}
      {counting &&
        loose.map((group) => (
          <TextField
            key={group.group}
            label={`${group.group}: the page says ${group.loose}, counted`}
            className="min-h-[48px] max-w-[160px]"
            inputMode="numeric"
            value={counted[group.group] ?? ""}
            onChange={(event) => setCounted({ ...counted, [group.group]: event.target.value })}
          />
        ))}
    </StepForm>
  );
}

/** A number as the page has it: at least, about, or not known. */
function about(group: ActionProps["step"]["screws"][number], number: number): string {
  if (group.least && number === 0) return "?";
  return `${group.least ? "at least " : ""}${group.about ? "about " : ""}${number}`;
}

/** A scanner ends with Enter: it leads to the next field, and never closes the step. */
function nextField(event: KeyboardEvent<HTMLInputElement>): void {
  if (event.key !== "Enter") return;
  event.preventDefault();
  const fields = [...(event.currentTarget.form?.querySelectorAll("input") ?? [])];
  fields[fields.indexOf(event.currentTarget) + 1]?.focus();
}

/** The part itself: what went in, its serial, and that of the old one. */
function SwapStep({ job, step, onDone }: ActionProps) {
  const swap = job.swaps.find((item) => item.position === step.position);
  const listed = swap?.fits ?? [];
  const [part, setPart] = useState(listed.find((fit) => fit.verdict === "yes")?.part_number ?? "");
  const [refitted, setRefitted] = useState(false);
  const [serial, setSerial] = useState("");
  const [old, setOld] = useState("");
  const [reason, setReason] = useState("");
  const inHand = useInHand(job.id, step.position ?? "", refitted ? "" : part, useSettled(serial.trim()));
  const answers = inHand.data?.answers ?? [];
  const against = answers.some((answer) => answer.verdict === "no");
  const send = (): void => {
    // Without its answer a part does not go in: nothing is assumed.
    if (!refitted && part && inHand.isError) return;
    onDone(
      refitted
        ? { refitted: true, removed_serial: old }
        : { part_number: part, serial: serial.trim(), removed_serial: old.trim(), ...(against ? { reason } : {}) },
    );
  };
  return (
    <StepForm onDone={send}>
      <TouchToggle on={refitted} onChange={setRefitted}>
        The old part goes back in: nothing was replaced
      </TouchToggle>
      {!refitted && (
        <>
          <TouchChoice
            label={`Part fitted${swap?.held ? `, in place of ${swap.held}` : ""}`}
            value={part}
            choices={listed.map((fit) => [fit.part_number, `${fit.part_number} · ${fit.part_name}`] as const)}
            onChange={setPart}
          />
          <div className="grid max-w-[640px] grid-cols-2 gap-3 max-[700px]:grid-cols-1">
            <TextField
              label="Serial of the new part, scanned or typed"
              className="code min-h-[48px]"
              value={serial}
              onChange={(event) => setSerial(event.target.value)}
              onKeyDown={nextField}
            />
            <TextField
              label={`Serial of the old part${swap?.held_serial ? ` (record says ${swap.held_serial})` : ""}`}
              className="code min-h-[48px]"
              value={old}
              onChange={(event) => setOld(event.target.value)}
              onKeyDown={nextField}
            />
          </div>
          <Scanner job={job.id} />
          {part && <InHand answers={answers} waiting={!inHand.data} lost={inHand.isError} />}
          {against && (
            <TextField
              label="Why it is fitted all the same (a lead reads it)"
              className="min-h-[48px] max-w-[640px]"
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
          )}
        </>
      )}
    </StepForm>
  );
}

const MARKS: Record<string, [string, string]> = {
  yes: ["✓", "text-covered"],
  no: ["✗", "font-semibold text-short"],
  unknown: ["?", "text-thin"],
};

/** A value once it has stood still for a moment: a scanner types key by key. */
function useSettled(value: string): string {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const wait = setTimeout(() => setSettled(value), 250);
    return () => clearTimeout(wait);
  }, [value]);
  return settled;
}

interface InHandProps {
  answers: { question: string; verdict: string; words: string }[];
  waiting: boolean;
  lost: boolean;
}

/** What the records say of the part before it goes in. */
function InHand({ answers, waiting, lost }: InHandProps) {
  if (lost) {
    return (
      <p role="status" className="border-2 border-thin bg-leaf p-3 font-semibold text-thin">
        The part is answered by the server before it goes in: this step waits for the connection, nothing is assumed.
      </p>
    );
  }
  return (
    <ul aria-label="The part in your hand" aria-busy={waiting} className="grid gap-0.5">
      {answers.map(({ question, verdict, words }) => (
        <li key={question} className={MARKS[verdict]?.[1]}>
          <span aria-hidden>{MARKS[verdict]?.[0]}</span> {words}
        </li>
      ))}
    </ul>
  );
}

function TestStep({ onDone }: ActionProps) {
  const [charge, setCharge] = useState(false);
  const [result, setResult] = useState<string | null>(null);
  return (
    <StepForm onDone={() => onDone({ charge_checked: charge, result })}>
      <TouchToggle on={charge} onChange={setCharge}>
        Charge checked: it is not just a flat battery
      </TouchToggle>
      <TouchChoice
        label="The test was"
        value={result}
        choices={[
          ["good", "good"],
          ["bad", "not good"],
        ]}
        onChange={setResult}
      />
      {result === "bad" && (
        <p className="font-semibold text-thin">
          Isolate again in the next step, then look: One back leads to the swap, Something is wrong to help.
        </p>
      )}
    </StepForm>
  );
}

/** What goes back is tapped, never taken for granted: what is not tapped stays out and is named at the end. */
function ClosingStep({ job, local, step, onDone }: ActionProps) {
  const screws = toPutBack(job, step, local.tray);
  const [back, setBack] = useState<Record<string, number>>({});
  const [leads, setLeads] = useState<string[]>([]);
  const send = (): void => onDone({ screws: back, leads });
  return (
    <StepForm onDone={send}>
      {screws.map(({ group, count }) => (
        <div key={group} className="flex items-stretch gap-2">
          <TouchToggle
            on={(back[group] ?? 0) === count}
            onChange={(on) => setBack({ ...back, [group]: on ? count : 0 })}
          >
            <strong>
              {count} × {group}
            </strong>{" "}
            back
            {back[group] !== undefined && back[group] !== count && back[group] !== 0 ? `: ${back[group]} so far` : ""}
          </TouchToggle>
          <TouchButton
            aria-label={`One less of ${group}`}
            className="w-[64px]"
            onClick={() => setBack({ ...back, [group]: Math.max((back[group] ?? count) - 1, 0) })}
          >
            −1
          </TouchButton>
        </div>
      ))}
      {step.leads.map((lead) => (
        <TouchToggle
          key={lead.name}
          on={leads.includes(lead.name)}
          onChange={(on) => setLeads(on ? [...leads, lead.name] : leads.filter((name) => name !== lead.name))}
        >
          <strong>{lead.name}</strong> back{step.left_out ? "" : `, ${lead.kind.replaceAll("_", " ")}`}
        </TouchToggle>
      ))}
    </StepForm>
  );
}
