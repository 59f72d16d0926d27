import { useEffect, useState } from "react";
import { Link, Navigate, useParams } from "react-router";
import { useKeys } from "@/lib/useKeys";
import { FailedToRead } from "@/ui/FailedToRead";
import { Waiting } from "@/ui/Notice";
import { TouchButton } from "@/ui/Touch";
import { AddStep } from "./AddStep";
import { useAsset, useJob, useModelPage } from "./bench.queries";
import { FinishPane, NotBack } from "./FinishPane";
import { GateForm } from "./GateForm";
import { type Job, type LocalJob, type Step, unsent, withPending } from "./local";
import { PausedPane } from "./PausedPane";
import { Refused } from "./Refused";
import { SettleFacts } from "./SettleFacts";
import { STEP_FORM, StepActions } from "./StepActions";
import { StepDrawing, StepHead } from "./StepPane";
import { TrayPane } from "./TrayPane";
import { type Bench, useBench } from "./useBench";
import { Waivers } from "./Waivers";
import { WrongSheet } from "./WrongSheet";

const STEP_VIEW = "bench-view";

/** The bench view: one step at a time in large type, trays and leads always in view. */
export default function RunPage() {
  const { job: id } = useParams();
  const job = useJob(Number(id));
  if (job.isError) return <FailedToRead title="No job" query={job} />;
  if (!job.data) return <Waiting what="Fetching the job" />;
  return <Running job={job.data} />;
}

function Running({ job }: { job: Job }) {
  const bench = useBench(job.id);
  const local = withPending(job, bench.pending);
  const ended = job.state === "closed" || job.state === "abandoned" || job.state === "watching";
  return (
    <div className="bench flex min-h-0 flex-1 flex-col text-[18px]">
      <Strip job={job} bench={bench} />
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_400px] max-[900px]:flex max-[900px]:flex-col max-[900px]:overflow-y-auto">
        <section
          id={STEP_VIEW}
          aria-label="The step"
          className="min-h-0 overflow-y-auto p-5 max-[900px]:flex-none max-[900px]:overflow-visible max-[900px]:px-3"
        >
          <Refused bench={bench} />
          {ended ? (
            <Navigate to={`/bench/${job.id}`} replace />
          ) : bench.taken ? (
            <Taken job={job} bench={bench} />
          ) : (
            <Work job={job} local={local} bench={bench} />
          )}
        </section>
        <aside
          aria-label="Trays and leads"
          className="min-h-0 overflow-y-auto border-l border-rule bg-leaf p-4 max-[900px]:flex-none max-[900px]:overflow-visible"
        >
          <TrayPane job={job} local={local} />
        </aside>
      </div>
    </div>
  );
}

/** What has to be known at a glance: the machine, what was agreed, and whether it is safe. */
function Strip({ job, bench }: { job: Job; bench: Bench }) {
  const waived = new Set(job.waivers.filter((waiver) => waiver.now).map((waiver) => waiver.gate));
  const passed = (gate: string): boolean => job.passed.includes(gate) && !waived.has(gate);
  const states: [string, boolean, string][] = [
    ["isolation", job.isolated, "isolated"],
    ["static", passed("static"), "strap on"],
    ["data", passed("data"), "data safe"],
  ];
  const learnt = job.learnt_jobs > 0 ? job.learnt_factor : 1;
  const places = useAsset(job.plain ? job.tag : "").data?.positions ?? [];
  const label = (key: string): string => places.find((entry) => entry.key === key)?.label ?? key;
  return (
    <header className="no-print flex flex-wrap items-baseline gap-x-6 border-b border-rule px-5 py-1.5 text-[1.02rem]">
      <Link className="text-accent underline" to={`/bench/${job.id}`}>
        Job {job.id}
      </Link>
      <span>
        Asset <strong className="code">{job.tag}</strong>
      </span>
      <span>{job.model}</span>
      <span className="min-w-0 truncate">
        {job.targets.length > 0 ? (
          <>
            Target{" "}
            <strong>
              {(job.plain ? job.targets.map(label) : job.swaps.map((swap) => swap.label)).join(", ") ||
                job.targets.join(", ")}
            </strong>
          </>
        ) : (
          job.symptom
        )}
      </span>
      <span className="ml-auto flex flex-wrap gap-x-4">
        {states
          .filter(([gate, on]) => on || (gate === "isolation" && !waived.has(gate)))
          .map(([gate, on, words]) => (
            <strong key={gate} className={on ? "text-covered" : "text-thin"}>
              {on ? `${words} ✓` : `not ${words}`}
            </strong>
          ))}
        <Waivers job={job} />
        <span title={learnt === 1 ? "as planned" : `planned × ${learnt.toFixed(2)}, from ${job.learnt_jobs} jobs`}>
          {Math.round(job.minutes_so_far)} min
          {job.plain ? " so far" : ` of about ${Math.round(job.planned.mean * learnt)}`}
        </span>
        <Connection bench={bench} />
      </span>
    </header>
  );
}

function Connection({ bench }: { bench: Bench }) {
  const waiting = bench.pending.length;
  if (bench.connected && waiting === 0) return <span className="text-soft">all sent</span>;
  return (
    <strong role="status" className="text-thin">
      {bench.connected ? "sending" : "no connection"}
      {waiting > 0 && `, ${waiting} waiting`}
    </strong>
  );
}

function Taken({ job, bench }: { job: Job; bench: Bench }) {
  const waiting = bench.pending.length;
  return (
    <div role="alert" className="grid gap-3 border-2 border-thin bg-leaf p-4">
      <p className="text-[1.3rem] font-semibold">{bench.taken}</p>
      {waiting > 0 && <p>{waiting} entries made here were not sent.</p>}
      <div className="flex flex-wrap gap-3">
        <TouchButton look="main" onClick={() => void bench.takeOver()}>
          Take it over
        </TouchButton>
        {waiting > 0 && <TouchButton onClick={() => void bench.dropPending()}>Drop what was not sent</TouchButton>}
        <Link className="self-center text-accent underline" to={`/bench/${job.id}`}>
          Leave it
        </Link>
      </div>
    </div>
  );
}

function Work({ job, local, bench }: { job: Job; local: LocalJob; bench: Bench }) {
  const page = useModelPage(job.model_id);
  const [wrong, setWrong] = useState<"menu" | "danger" | "screw" | null>(null);
  const step = local.next;
  useEffect(() => {
    if (step) for (const view of ["body", STEP_VIEW]) document.getElementById(view)?.scrollTo(0, 0);
  }, [step]);
  const submit = (): void => {
    const form = document.getElementById(STEP_FORM);
    if (form instanceof HTMLFormElement) form.requestSubmit();
  };
  useKeys({
    " ": () => submit(),
    Backspace: () => void (local.done.length > 0 && bench.write("back")),
  });
  const sheet = wrong && (
    <WrongSheet
      job={job}
      local={local}
      step={step}
      bench={bench}
      first={wrong === "menu" ? null : wrong}
      onClose={() => setWrong(null)}
    />
  );
  if (["waiting", "parked", "stopped"].includes(job.state)) return <PausedPane job={job} bench={bench} />;
  const typing = job.plain && local.done.every((name) => name.startsWith("open:")) && step?.phase !== "opening";
  if (!step) {
    return (
      <>
        {typing && <AddStep job={job} bench={bench} />}
        {job.steps.length === 0 ? (
          !typing && <NoSteps job={job} />
        ) : (
          <FinishPane job={job} local={local} bench={bench} onLost={() => setWrong("screw")} />
        )}
        <div className="mt-6">
          <TouchButton onClick={() => setWrong("menu")}>Something is wrong</TouchButton>
        </div>
        {sheet}
      </>
    );
  }
  return (
    <>
      {typing && <AddStep job={job} bench={bench} />}
      {typing && <h2 className="mb-2 border-b border-rule text-[1.3rem]">Or, once all is reached, go on here</h2>}
      <AtStep job={job} local={local} bench={bench} step={step} onSubmit={submit} onWrong={setWrong} />
      <StepDrawing page={page.data} step={step} />
      {sheet}
    </>
  );
}

interface AtStepProps {
  job: Job;
  local: LocalJob;
  bench: Bench;
  step: Step;
  onSubmit: () => void;
  onWrong: (what: "menu" | "danger" | "screw") => void;
}

/** The step itself, with what stands before it: gates first, then what is still out beneath it. */
function AtStep({ job, local, bench, step, onSubmit, onWrong }: AtStepProps) {
  // Gates are those of the step the server stands at: while steps wait to be sent, it does not stand here yet.
  const ahead = unsent(job, bench.pending).some((entry) => entry.kind === "step" || entry.kind === "back");
  const gate = ahead ? undefined : job.gates[0];
  const blocked = local.closed.length > 0 || gate !== undefined;
  return (
    <>
      <StepHead job={job} local={local} step={step} />
      {gate && <GateForm key={gate.id} gate={gate} job={job} bench={bench} onDanger={() => onWrong("danger")} />}
      {!ahead && <Beneath job={job} bench={bench} onLost={() => onWrong("screw")} />}
      {blocked && !gate && (
        <p role="status" className="mt-4 border-2 border-thin bg-leaf p-3">
          Before this step stands a gate that only the server opens. What was done here is kept and sent once the
          connection is back.
        </p>
      )}
      {!blocked && (
        <StepActions
          job={job}
          local={local}
          step={step}
          onDone={(data) => void bench.write("step", { step: step.id, ...data })}
        />
      )}
      <div className="mt-5 flex flex-wrap items-center gap-3 max-[900px]:sticky max-[900px]:bottom-0 max-[900px]:z-10 max-[900px]:-mx-3 max-[900px]:gap-2 max-[900px]:border-t max-[900px]:border-ink max-[900px]:bg-paper max-[900px]:px-3 max-[900px]:py-2 max-[600px]:[&_button]:px-3 max-[600px]:[&_button]:text-[0.95rem]">
        {!blocked && (
          <TouchButton look="main" className="px-10" onClick={onSubmit}>
            Done
          </TouchButton>
        )}
        <TouchButton disabled={local.done.length === 0} onClick={() => void bench.write("back")}>
          One back
        </TouchButton>
        <TouchButton onClick={() => onWrong("menu")}>Something is wrong</TouchButton>
        <span className="text-[0.95rem] text-soft max-[900px]:hidden">Space: done · Backspace: one back</span>
      </div>
      {!blocked && <SettleFacts job={job} bench={bench} />}
    </>
  );
}

function Beneath({ job, bench, onLost }: { job: Job; bench: Bench; onLost: () => void }) {
  if (job.beneath.length === 0) return null;
  return (
    <NotBack
      what={`Before this goes on: ${job.beneath.map((item) => item.words).join("; ")}.`}
      groups={job.beneath.flatMap(({ group, count }) => (group ? [{ group, count }] : []))}
      leads={job.beneath.flatMap(({ lead }) => (lead ? [lead] : []))}
      bench={bench}
      onLost={onLost}
    />
  );
}

function NoSteps({ job }: { job: Job }) {
  return (
    <p>
      This job has no way in yet. Find out what it is first, then choose what to reach:{" "}
      <Link className="text-accent underline" to={`/bench/${job.id}/diagnose`}>
        diagnose it
      </Link>
      .
    </p>
  );
}
