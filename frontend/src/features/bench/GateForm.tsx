import { useState } from "react";
import type { Schemas } from "@/api/client";
import { TextField } from "@/ui/Field";
import { TouchButton, TouchChoice, TouchToggle } from "@/ui/Touch";
import type { Bench } from "./useBench";

type Gate = Schemas["GateView"];
type Ask = Gate["asks"][number];
type Answers = Record<string, boolean | number | string>;

/** One gate: what must be true before the step, answered point by point. It opens at the server, never on its own. */
export function GateForm({ gate, bench, onDanger }: { gate: Gate; bench: Bench; onDanger: () => void }) {
  const [answers, setAnswers] = useState<Answers>({});
  const [waiving, setWaiving] = useState(false);
  const [busy, setBusy] = useState(false);
  const pass = async (): Promise<void> => {
    setBusy(true);
    await bench.write("gate", { gate: gate.id, answers });
    setBusy(false);
  };
  const answer = (key: string, value: boolean | number | string): void => setAnswers({ ...answers, [key]: value });
  return (
    <section aria-label={gate.title} className="mt-4 border-2 border-thin bg-leaf p-4">
      <h2 className="text-[1.6rem]">{gate.title}</h2>
      <p className="mt-1 text-soft">{gate.why}</p>
      <div className="mt-3 grid gap-2">
        {gate.asks.map((ask) => (
          <Question key={ask.key} ask={ask} value={answers[ask.key]} onAnswer={(value) => answer(ask.key, value)} />
        ))}
      </div>
      <div className="mt-4 flex flex-wrap gap-3">
        <TouchButton look="main" disabled={busy} onClick={() => void pass()}>
          Open this gate
        </TouchButton>
        {gate.id === "pack" && (
          <TouchButton look="danger" onClick={onDanger}>
            It is not: stop
          </TouchButton>
        )}
        {gate.waivable && !waiving && <TouchButton onClick={() => setWaiving(true)}>Waive it</TouchButton>}
      </div>
      {waiving && <Waiver gate={gate} bench={bench} />}
    </section>
  );
}

interface QuestionProps {
  ask: Ask;
  value: boolean | number | string | undefined;
  onAnswer: (value: boolean | number | string) => void;
}

function Question({ ask, value, onAnswer }: QuestionProps) {
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
  return (
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
}

/** Waiving a gate is a decision of somebody, with a reason: both are kept with the job. */
function Waiver({ gate, bench }: { gate: Gate; bench: Bench }) {
  const [reason, setReason] = useState("");
  const [name, setName] = useState("");
  return (
    <form
      className="mt-4 grid max-w-[420px] gap-3 border-t border-rule pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        void bench.write("waive", { gate: gate.id, reason, name });
      }}
    >
      <TextField label="Why it is waived" value={reason} onChange={(event) => setReason(event.target.value)} />
      <TextField label="Who decided" value={name} onChange={(event) => setName(event.target.value)} />
      <TouchButton type="submit">Waive {gate.title.toLowerCase()}</TouchButton>
    </form>
  );
}
