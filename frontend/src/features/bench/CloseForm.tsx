import { useState } from "react";
import { useNavigate } from "react-router";
import { isProblem, type Problem } from "@/api/client";
import { FINDING_NAMES, FINDINGS, type FindingName } from "@/lib/words";
import { SelectField, TextArea, TextField } from "@/ui/Field";
import { FoundField, mayBeFound } from "@/ui/FoundField";
import { TouchButton, TouchToggle } from "@/ui/Touch";
import { type CloseIn, useCloseJob } from "./bench.queries";
import { Correction } from "./Correction";
import type { Job } from "./local";
import { type Line, PositionLine, type Swap } from "./PositionLine";
import type { Bench } from "./useBench";

type Question = NonNullable<CloseIn["confirmed"]>[number];

const QUESTIONS: Record<Question, string> = {
  duplicate: "Yes, a second incident",
  fit: "Yes, it was fitted",
  serial: "Yes, record it as read",
  both_failed: "Yes, each of them failed",
};
/** What a job finds unless something else is said. */
const USUAL: Partial<Record<string, FindingName>> = { upgrade: "upgrade", preventive: "preventive" };
const isQuestion = (name: string | null | undefined): name is Question => name != null && name in QUESTIONS;

const text = (value: unknown): string | null => (typeof value === "string" && value.trim() ? value : null);

/** What the bench said of a position, as a line of the closing. */
function lineOf(swap: Swap, swapped: Job["swapped"][string] | undefined, site: string): Line {
  const refitted = !swapped || swapped.refitted === true;
  const part = refitted ? null : text(swapped?.part_number);
  const stock = swap.fits.find((fit) => fit.part_number === part)?.on_hand ?? {};
  const shelf = stock[site] ? site : (Object.keys(stock)[0] ?? site);
  return {
    position: swap.position,
    action: refitted ? "kept" : "replaced",
    part_number: part,
    shelf_site: refitted ? null : shelf,
    source: "on_hand",
    serial: refitted ? null : text(swapped?.serial),
    removed_serial: text(swapped?.removed_serial),
    finding: null,
    removed_to: null,
    tested: null,
    custody: "",
  };
}

/** What went in and came out, as the journal says it now: the closing says it no second time. */
function fittedAt(swapped: Job["swapped"][string] | undefined): Partial<Line> {
  if (!swapped || swapped.refitted === true) return {};
  return {
    part_number: text(swapped.part_number),
    serial: text(swapped.serial),
    removed_serial: text(swapped.removed_serial),
  };
}

/** Whether a part that came out may have failed unnoticed; a line without a finding of its own has that of the job. */
const someMayBeFound = (lines: Line[], finding: FindingName): boolean =>
  lines.some((line) => line.action !== "kept" && mayBeFound(line.finding ?? finding));

/** The end of the job: finding, where parts came from and went, minutes. All of it happens at once, or nothing does. */
export function CloseForm({ job, bench }: { job: Job; bench: Bench }) {
  const survey = job.purpose === "survey";
  const uncured = job.failed_test;
  const settles = !survey && !uncured;
  const usual = uncured ? "open" : (USUAL[job.purpose] ?? "open");
  const [finding, setFinding] = useState<FindingName>(usual);
  const [lines, setLines] = useState<Line[]>(() =>
    job.swaps.map((swap) => lineOf(swap, job.swapped[swap.position], job.site_code)),
  );
  const [minutes, setMinutes] = useState(String(Math.round(job.minutes_so_far)));
  const [note, setNote] = useState("");
  const [lastGood, setLastGood] = useState("");
  const [accept, setAccept] = useState("");
  const [watch, setWatch] = useState(!uncured && usual === "open" && job.swaps.length > 0);
  const [used, setUsed] = useState<string[]>(job.consumables);
  const [confirmed, setConfirmed] = useState<Question[]>([]);
  const close = useCloseJob(job.id);
  const navigate = useNavigate();
  const problem = isProblem(close.error) ? close.error : null;
  const change = (place: number, fields: Partial<Line>): void =>
    setLines(lines.map((line, other) => (other === place ? { ...line, ...fields } : line)));
  const asksLastGood = !survey && someMayBeFound(lines, finding);
  const send = (answers: Question[]): void =>
    close.mutate(
      {
        device: bench.device,
        finding,
        lines: lines.map((line) => ({ ...line, ...fittedAt(job.swapped[line.position]) })),
        minutes: minutes.trim() === "" ? null : Number(minutes),
        note,
        accept_reason: accept,
        evidence: { cold_starts: 0, fails_elsewhere: null, proof: null },
        watch,
        last_good_on: (asksLastGood && lastGood) || null,
        consumables: used,
        confirmed: answers,
      },
      { onSuccess: () => void navigate(`/bench/${job.id}`) },
    );
  const answer = (question: Question): void => {
    const answers = [...confirmed, question];
    setConfirmed(answers);
    send(answers);
  };
  return (
    <form
      aria-label="Close the job"
      className="grid gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        send(confirmed);
      }}
    >
      <CloseHead uncured={uncured} />
      {settles && <FindingField finding={finding} fault={problem?.at("finding")} onChange={setFinding} />}
      {!survey &&
        lines.map((line, place) => (
          <PositionLine
            key={line.position}
            line={{ ...line, ...fittedAt(job.swapped[line.position]) }}
            correction={
              line.action === "replaced" ? <Correction job={job} bench={bench} position={line.position} /> : null
            }
            swap={job.swaps.find((swap) => swap.position === line.position)}
            place={place}
            problem={problem}
            several={lines.length > 1}
            onChange={(fields) => change(place, fields)}
          />
        ))}
      {asksLastGood && (
        <FoundField
          className="min-h-[48px]"
          fault={problem?.at("last_good_on")}
          value={lastGood}
          onChange={(event) => setLastGood(event.target.value)}
        />
      )}
      {job.consumables.length > 0 && (
        <fieldset className="grid gap-2">
          <legend className="font-semibold">Used up</legend>
          {job.consumables.map((item) => (
            <TouchToggle
              key={item}
              on={used.includes(item)}
              onChange={(on) => setUsed(on ? [...used, item] : used.filter((other) => other !== item))}
            >
              {item}
            </TouchToggle>
          ))}
        </fieldset>
      )}
      <div className="grid grid-cols-[160px_minmax(0,1fr)] gap-3">
        <TextField
          label="Minutes at the bench"
          inputMode="numeric"
          className="min-h-[48px]"
          hint={`planned ${Math.round(job.planned.mean)} min`}
          value={minutes}
          onChange={(event) => setMinutes(event.target.value)}
        />
        <TextArea label="Note" rows={2} value={note} onChange={(event) => setNote(event.target.value)} />
      </div>
      {(problem?.at("accept_reason") || accept || job.report.some((item) => item.verdict === "no")) && (
        <TextField
          label="Why it is closed all the same"
          className="min-h-[48px]"
          fault={problem?.at("accept_reason")}
          value={accept}
          onChange={(event) => setAccept(event.target.value)}
        />
      )}
      {settles && (
        <TouchToggle on={watch} onChange={setWatch}>
          Watch it: {job.cold_starts_wanted} cold starts and the days the company asks for, before a finding is
          confirmed
        </TouchToggle>
      )}
      <Faults problem={problem} />
      {isQuestion(problem?.question) && (
        <div role="alert" className="border-l-4 border-thin bg-pick p-3">
          <p>{problem?.detail}</p>
          <TouchButton className="mt-2" onClick={() => isQuestion(problem?.question) && answer(problem.question)}>
            {QUESTIONS[problem.question]}
          </TouchButton>
        </div>
      )}
      <TouchButton type="submit" look="main" className="justify-self-start" disabled={close.isPending}>
        {closeWords(uncured, watch)}
      </TouchButton>
    </form>
  );
}

const closeWords = (uncured: boolean, watch: boolean): string => {
  if (uncured) return "Close it as not cured";
  return watch ? "Close it and watch the machine" : "Close the job";
};

/** After a bad power test there is one way to close, and it is said before the form. */
function CloseHead({ uncured }: { uncured: boolean }) {
  if (!uncured) return <h2 className="border-b border-rule text-[1.4rem]">Close the job</h2>;
  return (
    <>
      <h2 className="border-b border-rule text-[1.4rem]">Close the job as not cured</h2>
      <p role="note" className="border-l-4 border-short bg-leaf p-3">
        <strong className="text-short">The power test failed.</strong> The job closes as not cured and its finding stays
        open. Go back, mend it and test again to close it otherwise.
      </p>
    </>
  );
}

interface FindingFieldProps {
  finding: FindingName;
  fault: string | undefined;
  onChange: (finding: FindingName) => void;
}

function FindingField({ finding, fault, onChange }: FindingFieldProps) {
  return (
    <SelectField
      label="Finding"
      className="min-h-[48px]"
      hint={finding === "open" ? "Open waits in the Ledger until it is settled." : undefined}
      fault={fault}
      value={finding}
      onChange={(event) => onChange(FINDINGS.find((name) => name === event.target.value) ?? "open")}
    >
      {FINDINGS.map((name) => (
        <option key={name} value={name}>
          {FINDING_NAMES[name]}
        </option>
      ))}
    </SelectField>
  );
}

/** Refusals that no field shows, each by name. */
function Faults({ problem }: { problem: Problem | null }) {
  if (!problem || isQuestion(problem.question)) return null;
  const placed =
    /^(finding|accept_reason|last_good_on|lines\.\d+\.(custody|shelf_site|part_number|removed_to|source))$/;
  const left = problem.faults.filter((fault) => !placed.test(fault.field)).map((fault) => fault.message);
  if (problem.faults.length > 0 && left.length === 0) return null;
  return (
    <div role="alert" className="border-l-4 border-short bg-pick p-3 font-semibold text-short">
      <ul>
        {(left.length ? left : [problem.detail]).map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
    </div>
  );
}
