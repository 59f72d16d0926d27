import { useState } from "react";
import { isProblem, type Problem, type Schemas, sendPhoto } from "@/api/client";
import { SelectField, TextArea, TextField } from "@/ui/Field";
import { TouchButton } from "@/ui/Touch";
import { useAnswerApproval, useAskApproval } from "./bench.queries";
import type { Job } from "./local";

export type Approval = Schemas["ApprovalView"];
type Answer = Schemas["AnswerIn"];
type Release = NonNullable<Answer["release"]>;

const wordsOf = (problem: Problem): string[] =>
  problem.status === 0
    ? ["no connection: this waits, nothing is assumed"]
    : problem.faults.length
      ? problem.faults.map((fault) => fault.message)
      : [problem.detail];

export function Faults({ error }: { error: unknown }) {
  if (!isProblem(error)) return null;
  return (
    <div role="alert" className="font-semibold text-short">
      <ul>
        {wordsOf(error).map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
    </div>
  );
}

interface AskProps {
  job: Job;
  kind: Approval["kind"];
  subject: string;
  count?: number;
  label: string;
  act: string;
}

/** Asking a second person: with a reason; it is answered here, or from their own device. */
export function AskApproval({ job, kind, subject, count = 1, label, act }: AskProps) {
  const [reason, setReason] = useState("");
  const [photo, setPhoto] = useState<File | null>(null);
  const [own, setOwn] = useState(false);
  const ask = useAskApproval(job.id);
  const open = job.approvals.find((item) => item.kind === kind && item.subject === subject && item.granted === null);
  if (open) return <AnswerHere approval={open} />;
  const refused = job.approvals.findLast((item) => item.kind === kind && item.subject === subject && !item.granted);
  const send = async (): Promise<void> => {
    const digest = own && photo ? (await sendPhoto(photo)).digest : "";
    ask.mutate({ kind, subject, reason, count, own, photo: digest });
  };
  return (
    <form
      className="mt-4 grid max-w-[560px] gap-3 border-t border-rule pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
    >
      {refused && (
        <p className="font-semibold text-short">
          Not approved by {refused.answered_by}: {refused.words}
        </p>
      )}
      <TextField label={label} value={reason} onChange={(event) => setReason(event.target.value)} />
      {own && (
        <TextField
          label="Photo that shows it, PNG or JPEG"
          type="file"
          accept="image/png,image/jpeg"
          onChange={(event) => setPhoto(event.target.files?.[0] ?? null)}
        />
      )}
      <Faults error={ask.error} />
      <div className="flex flex-wrap items-center gap-4">
        <TouchButton type="submit" disabled={ask.isPending}>
          {own ? "Approve it myself" : act}
        </TouchButton>
        {kind !== "release" && (
          <button type="button" className="min-h-[44px] text-accent underline" onClick={() => setOwn(!own)}>
            {own ? "ask somebody else" : "nobody else is here"}
          </button>
        )}
      </div>
    </form>
  );
}

const WHO: Record<Approval["kind"], string> = {
  waive: "a lead",
  release: "a lead",
  gate: "a second person, technician or lead",
  left_out: "a second person, technician or lead",
};

/** What was asked waits for its answer; who answers beside the worker signs in for this one answer. */
function AnswerHere({ approval }: { approval: Approval }) {
  return (
    <section aria-label={`Asked: ${approval.title}`} className="mt-4 grid gap-2 border-t border-rule pt-3">
      <p role="status" className="font-semibold text-thin">
        Asked by {approval.asked_by}, waits for {WHO[approval.kind]}: {approval.reason}
      </p>
      <p className="text-soft">
        Answered from their own device under Bench, or here, by signing in for this one answer.
      </p>
      <AnswerForm approval={approval} beside />
    </section>
  );
}

/** The answer of a second person. `beside`: they sign in on the worker's screen, whose session stays as it is. */
export function AnswerForm({ approval, beside = false }: { approval: Approval; beside?: boolean }) {
  const [login, setLogin] = useState("");
  const [password, setPassword] = useState("");
  const [words, setWords] = useState("");
  const [release, setRelease] = useState<Release>({ officer: "", day: "", decision: "released" });
  const answer = useAnswerApproval();
  const send = (granted: boolean): void =>
    answer.mutate({
      id: approval.id,
      answer: {
        granted,
        words,
        release: approval.kind === "release" && granted ? release : null,
        login: beside ? login : null,
        password: beside ? password : null,
      },
    });
  return (
    <form
      className="grid max-w-[560px] gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        send(true);
      }}
    >
      {beside && (
        <div className="grid grid-cols-2 gap-3">
          <TextField
            label="Login"
            autoComplete="off"
            value={login}
            onChange={(event) => setLogin(event.target.value)}
          />
          <TextField
            label="Password"
            type="password"
            autoComplete="off"
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
        </div>
      )}
      {approval.kind === "release" && <ReleaseFields value={release} onChange={setRelease} />}
      <TextArea label="What you say to it" rows={2} value={words} onChange={(event) => setWords(event.target.value)} />
      <Faults error={answer.error} />
      <div className="flex flex-wrap gap-3">
        <TouchButton type="submit" look="main" disabled={answer.isPending}>
          Approve
        </TouchButton>
        <TouchButton disabled={answer.isPending} onClick={() => send(false)}>
          Do not approve
        </TouchButton>
      </div>
    </form>
  );
}

function ReleaseFields({ value, onChange }: { value: Release; onChange: (value: Release) => void }) {
  return (
    <div className="grid gap-3">
      <TextField
        label="Who decided: fire and safety officer, or licensed person"
        value={value.officer}
        onChange={(event) => onChange({ ...value, officer: event.target.value })}
      />
      <TextField
        label="On which day"
        type="date"
        value={value.day}
        onChange={(event) => onChange({ ...value, day: event.target.value })}
      />
      <SelectField
        label="What becomes of it"
        value={value.decision}
        onChange={(event) =>
          onChange({ ...value, decision: DECISIONS.find(([key]) => key === event.target.value)?.[0] ?? "released" })
        }
      >
        {DECISIONS.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </SelectField>
    </div>
  );
}

const DECISIONS: readonly (readonly [Release["decision"], string])[] = [
  ["released", "Released: it is sound, work goes on"],
  ["disposed", "Disposed of: another pack goes in"],
  ["returned", "Returned to the supplier: another pack goes in"],
];
