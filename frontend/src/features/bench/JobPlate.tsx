import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { isProblem, type Schemas } from "@/api/client";
import { capital, day } from "@/lib/format";
import { minutesWords } from "@/lib/words";
import { MachineNotes } from "@/shared/MachineNotes";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { TextField } from "@/ui/Field";
import { Waiting } from "@/ui/Notice";
import { Sheet } from "@/ui/Sheet";
import { AskApproval } from "./Approvals";
import { useAbandon, useJob, useReopen } from "./bench.queries";
import { Issued, waitedWords } from "./Issued";
import { Journal } from "./Journal";
import { type Job, PURPOSES, STATES } from "./local";
import { OptionsTable } from "./OptionsTable";
import { deviceKey } from "./outbox";
import { Waivers } from "./Waivers";
import { WatchPane } from "./WatchPane";

const ENDED = ["closed", "abandoned"];

/** The record of a job: what it is for, how far it is, what was found, and every entry. */
export function JobPlate({ id, session }: { id: number; session: Schemas["SessionState"] }) {
  const job = useJob(id);
  if (job.isError) return <FailedToRead title="No job" query={job} />;
  if (!job.data) return <Waiting what="Fetching the job" />;
  return <Plate job={job.data} session={session} />;
}

function Plate({ job, session }: { job: Job; session: Schemas["SessionState"] }) {
  const may = session.user?.role !== "reader";
  const ended = ENDED.includes(job.state);
  return (
    <article className="p-4">
      <header>
        <p className="text-soft">
          Job {job.id}, {PURPOSES[job.purpose]}, opened {day(job.opened_on)} by {job.opened_by ?? "somebody"}
          {job.reopens_id && (
            <>
              , reopens{" "}
              <Link className="text-accent underline" to={`/bench/${job.reopens_id}`}>
                job {job.reopens_id}
              </Link>
            </>
          )}
        </p>
        <h2 className="text-[1.75rem]">{job.symptom}</h2>
        <p>
          <span className="code">{job.tag}</span>, <Link to={`/models/${job.model_id}`}>{job.model}</Link>, {job.site}
          {job.events.length > 0 && `, after a ${job.events.join(" and a ")}`}
        </p>
      </header>
      <Stands job={job} ended={ended} />
      <Unchecked job={job} />
      {may && ended && <InQuarantine job={job} />}
      {may && !ended && <Actions job={job} />}
      {may && ended && job.state === "closed" && <Reopen job={job} />}
      {job.state === "watching" && <WatchPane job={job} may={may} />}
      {Object.entries(job.agreed_parts).map(([key, number]) => (
        <p key={key}>
          <strong>Agreed part:</strong> <span className="code">{number}</span> at{" "}
          {job.swaps.find((swap) => swap.position === key)?.label ?? key}
        </p>
      ))}
      {job.agreed && (
        <p className="mt-3">
          <strong>Agreed:</strong> {job.agreed}
        </p>
      )}
      <MachineNotes notes={job.said.notes} />
      <Plan job={job} />
      {job.questions.length > 0 && (
        <section className="mt-4">
          <h3 className="border-b border-rule text-[1.15rem]">Questions for the page</h3>
          <ul>
            {job.questions.map((question) => (
              <li key={question} className="border-b border-dotted border-rule py-1 text-thin">
                {question}
              </li>
            ))}
          </ul>
        </section>
      )}
      <Issued job={job} may={may && !ended} />
      {!ended && job.purpose === "repair" && <OptionsTable job={job} currency={session.currency} />}
      <Journal job={job} />
    </article>
  );
}

/** How the job stands, who has it in hand, and what it waits for. */
function Stands({ job, ended }: { job: Job; ended: boolean }) {
  return (
    <p className="mt-2 border-y border-rule py-2 text-[1.15rem]">
      <strong>{capital(STATES[job.state] ?? job.state)}</strong>
      {job.waiting_for && ` for ${job.waiting_for}`}
      {job.waited && `: ${waitedWords(job.waited)}`}
      {job.lease.user && !ended && `, in hand of ${job.lease.user}`}
      {job.steps.length > 0 && `, ${job.done.length} of ${job.steps.length} steps done`}
      {job.incident_id && (
        <>
          {", in the ledger as "}
          <Link className="text-accent underline" to={`/ledger/${job.incident_id}`}>
            incident {job.incident_id}
          </Link>
        </>
      )}
    </p>
  );
}

/** A job that ended in quarantine keeps every other one off its machine until a lead releases it. */
function InQuarantine({ job }: { job: Job }) {
  if (stopsOf(job).length === 0) return null;
  return (
    <section aria-label="Release" className="mt-2">
      <p>No other job begins on {job.tag} until a lead releases it with the fire and safety officer.</p>
      <AskApproval job={job} kind="release" subject="" label="What was done" act="Ask a lead to release it" />
    </section>
  );
}

const stopsOf = (job: Job): string[] => [...job.danger, ...job.referral];

/** What nobody checked, what stopped it, what was lost and what was not cured, before anything else. */
function Unchecked({ job }: { job: Job }) {
  const stops = stopsOf(job);
  const lost = job.screw_ends;
  if (job.waivers.length + stops.length + lost.length === 0 && !job.failed_test) return null;
  return (
    <p role="note" className="mt-2 grid gap-1 border-l-4 border-short bg-leaf px-3 py-1.5">
      {stops.length > 0 && (
        <strong className="text-short">
          {job.danger.length > 0 ? "Stopped, the pack" : "Not opened, mains inside"}: {stops.join(", ")}.
        </strong>
      )}
      {lost.map((words) => (
        <strong key={words} className="text-thin">
          {words}
        </strong>
      ))}
      {job.failed_test && <strong className="text-short">Not cured: the power test failed.</strong>}
      <Waivers job={job} />
    </p>
  );
}

function Actions({ job }: { job: Job }) {
  const [ending, setEnding] = useState(false);
  const begun = job.done.length > 0;
  return (
    <div className="no-print mt-3 flex flex-wrap items-center gap-3">
      {job.state !== "watching" && (
        <Link
          to={`/bench/${job.id}/run`}
          className="rounded-[2px] border border-ink bg-ink px-3 py-1.5 font-semibold text-leaf hover:bg-accent"
        >
          {begun ? "Go on at the bench" : "Take it to the bench"}
        </Link>
      )}
      <Link className="text-accent underline" to={`/bench/${job.id}/diagnose`}>
        Diagnose
      </Link>
      <Sheets job={job} />
      {job.state !== "watching" && (
        <Button look="quiet" onClick={() => setEnding(true)}>
          Give it up
        </Button>
      )}
      {ending && <AbandonSheet job={job} onClose={() => setEnding(false)} />}
    </div>
  );
}

const SHEETS = [
  ["sheet", "Bench sheet"],
  ["record", "Job record"],
  ["tags", "Tray tags"],
] as const;

/** For work on paper. */
export function Sheets({ job }: { job: Job }) {
  return (
    <>
      {SHEETS.map(([name, words]) => (
        <a
          key={name}
          className="text-accent underline"
          href={`/api/v1/jobs/${job.id}/${name}.pdf`}
          target="_blank"
          rel="noreferrer"
        >
          {words}
        </a>
      ))}
    </>
  );
}

function AbandonSheet({ job, onClose }: { job: Job; onClose: () => void }) {
  const [reason, setReason] = useState("");
  const end = useAbandon(job.id);
  const problem = isProblem(end.error) ? end.error : null;
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Give up job ${job.id}?`}
      about={
        job.mismatches.length > 0
          ? `It ends with the machine open: ${job.mismatches.join("; ")}. This is written down.`
          : "It ends without any effect on machine, shelf or log."
      }
    >
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          end.mutate({ device: deviceKey(), reason, quarantine: "" }, { onSuccess: onClose });
        }}
      >
        <TextField
          label="Why"
          value={reason}
          fault={problem?.at("reason") ?? (problem ? problem.detail : undefined)}
          onChange={(event) => setReason(event.target.value)}
        />
        <Button type="submit" look="main" className="justify-self-start">
          Give it up
        </Button>
      </form>
    </Sheet>
  );
}

function Reopen({ job }: { job: Job }) {
  const [reason, setReason] = useState("");
  const [asking, setAsking] = useState(false);
  const again = useReopen(job.id);
  const navigate = useNavigate();
  const problem = isProblem(again.error) ? again.error : null;
  if (!asking) {
    return (
      <div className="no-print mt-3 flex flex-wrap items-center gap-3">
        <Button onClick={() => setAsking(true)}>The fault came back</Button>
        <Sheets job={job} />
      </div>
    );
  }
  return (
    <form
      className="mt-3 grid max-w-[520px] gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        again.mutate({ reason }, { onSuccess: (made) => void navigate(`/bench/${made.job_id}/diagnose`) });
      }}
    >
      <TextField
        label="What came back"
        hint="A failure that was recorded becomes no fault found, the rates follow, and a new job is opened."
        value={reason}
        fault={problem?.at("reason") ?? (problem ? problem.detail : undefined)}
        onChange={(event) => setReason(event.target.value)}
      />
      <Button type="submit" look="main" className="justify-self-start">
        Reopen
      </Button>
    </form>
  );
}

/** The plan in one line a step, with its minutes and what jobs on this model have taught. */
function Plan({ job }: { job: Job }) {
  if (job.steps.length === 0) return null;
  const learnt = job.learnt_jobs > 0;
  return (
    <section className="mt-4">
      <h3 className="flex items-baseline justify-between border-b border-ink text-[1.15rem]">
        The way in and back
        <span className="font-sans text-[0.95rem] font-normal text-soft">
          {job.plain ? "typed as it is done, minutes not known" : `${minutesWords(job.planned.mean)} planned`}
          {job.plain
            ? ""
            : learnt
              ? `, ${minutesWords(job.planned.mean * job.learnt_factor)} by ${job.learnt_jobs} closed job${job.learnt_jobs === 1 ? "" : "s"} of this model`
              : ", no closed job of this model yet"}
        </span>
      </h3>
      <ol>
        {job.steps.map((step, place) => (
          <li
            key={step.id}
            className={`flex items-baseline gap-3 border-b border-dotted border-rule py-0.5 ${job.done.includes(step.id) ? "text-soft" : ""}`}
          >
            <span className="w-6 text-right text-soft">{place + 1}</span>
            <span className="min-w-0 flex-1">
              {step.text}
              {step.live && <strong className="ml-2 text-short">power on</strong>}
              {step.one_way && <strong className="ml-2 text-short">no way back</strong>}
            </span>
            {job.done.includes(step.id) && <span className="text-covered">done</span>}
            <span className="w-16 text-right whitespace-nowrap">
              {step.minutes.mean > 0 ? minutesWords(step.minutes.mean) : "not known"}
            </span>
          </li>
        ))}
      </ol>
      <p className="mt-1 text-[0.93rem] text-soft">Test before closing: {job.test_reason}.</p>
    </section>
  );
}
