import { useState } from "react";
import type { Schemas } from "@/api/client";
import { TextField } from "@/ui/Field";
import { TouchButton, TouchChoice, TouchToggle } from "@/ui/Touch";
import { AskApproval } from "./Approvals";
import type { Job } from "./local";
import { Timer } from "./Timer";
import type { Bench } from "./useBench";

type Gate = Schemas["GateView"];
type Ask = Gate["asks"][number];
type Answers = Record<string, boolean | number | string>;

/** What begins a wait anew: whoever gave the machine power, or went a step on or back, holds and waits again. */
const ANEW = ["step", "back", "power_on", "resume", "release"];

const momentsOf = (job: Job): number => job.journal.filter((entry) => ANEW.includes(entry.kind)).length;

interface GateProps {
  gate: Gate;
  job: Job;
  bench: Bench;
  onDanger: () => void;
}

/** One gate: what must be true before the step, answered point by point. It opens at the server, never on its own. */
export function GateForm({ gate, job, bench, onDanger }: GateProps) {
  const [answers, setAnswers] = useState<Answers>({});
  const asked = job.approvals.some(
    (item) => item.kind === "waive" && item.subject === gate.id && item.granted === null,
  );
  // A gate that asks nothing is opened by no answer: only a lead lets it be.
  const letBe = gate.asks.length === 0 && gate.approval === null;
  const [waiving, setWaiving] = useState(asked || letBe);
  const [busy, setBusy] = useState(false);
  const pass = async (): Promise<void> => {
    setBusy(true);
    await bench.write("gate", { gate: gate.id, answers });
    setBusy(false);
  };
  const answer = (key: string, value: boolean | number | string): void =>
    setAnswers((before) => ({ ...before, [key]: value }));
  return (
    <section aria-label={gate.title} className="mt-4 border-2 border-thin bg-leaf p-4">
      <h2 className="text-[1.6rem]">{gate.title}</h2>
      <p className="mt-1 text-soft">{gate.why}</p>
      {gate.approval !== null && <Approved gate={gate} job={job} />}
      <div className="mt-3 grid gap-2">
        {gate.asks.map((ask) => (
          <Question
            key={ask.key}
            ask={ask}
            timer={`timer ${job.id} ${ask.key} ${momentsOf(job)}`}
            value={answers[ask.key]}
            onAnswer={(value) => answer(ask.key, value)}
          />
        ))}
      </div>
      <div className="mt-4 flex flex-wrap gap-3">
        {!letBe && (gate.approval === null || gate.approved_by !== null) && (
          <TouchButton look="main" disabled={busy} onClick={() => void pass()}>
            Open this gate
          </TouchButton>
        )}
        {gate.id === "pack" && (
          <TouchButton look="danger" onClick={onDanger}>
            It is not: stop
          </TouchButton>
        )}
        {gate.waivable && !waiving && <TouchButton onClick={() => setWaiving(true)}>It cannot be met</TouchButton>}
      </div>
      {waiving && (
        <AskApproval
          job={job}
          kind="waive"
          subject={gate.id}
          label="Why this gate is to be let be"
          act="Ask a lead to let it be"
        />
      )}
    </section>
  );
}

/** A gate that somebody else approves first; what else it asks is answered afterwards. */
function Approved({ gate, job }: { gate: Gate; job: Job }) {
  if (gate.approved_by) return <p className="mt-2 font-semibold text-covered">Approved by {gate.approved_by} ✓</p>;
  return (
    <AskApproval
      job={job}
      kind="gate"
      subject={gate.id}
      label="Why it has to be done"
      act="Ask a second person to approve it"
    />
  );
}

interface QuestionProps {
  ask: Ask;
  timer: string;
  value: boolean | number | string | undefined;
  onAnswer: (value: boolean | number | string) => void;
}

/** What the screen times: seconds the button is held, and minutes since the mains is out. */
const TIMED: Record<string, { unit: "s" | "min"; act: string }> = {
  held_seconds: { unit: "s", act: "I hold the button now" },
  waited_minutes: { unit: "min", act: "The mains is out now" },
};

function Question({ ask, timer, value, onAnswer }: QuestionProps) {
  if (ask.kind === "yes") {
    return (
      <TouchToggle on={value === true} onChange={onAnswer}>
        {ask.words}
      </TouchToggle>
    );
  }
  if (ask.kind === "choice") {
    return (
      <TouchChoice
        label={ask.words}
        value={typeof value === "string" ? value : null}
        choices={ask.choices.map((choice) => [choice, choice] as const)}
        onChange={onAnswer}
      />
    );
  }
  const timed = TIMED[ask.key];
  const field = (
    <TextField
      label={ask.words}
      className="min-h-[48px] max-w-[420px]"
      inputMode={ask.kind === "number" ? "decimal" : "text"}
      value={value === undefined ? "" : String(value)}
      onChange={(event) => {
        const typed = event.target.value;
        onAnswer(ask.kind === "number" && typed.trim() !== "" ? Number(typed.replace(",", ".")) : typed);
      }}
    />
  );
  if (!timed) return field;
  return (
    <div className="grid gap-1">
      {field}
      <Timer name={timer} unit={timed.unit} act={timed.act} onTime={onAnswer} />
    </div>
  );
}
