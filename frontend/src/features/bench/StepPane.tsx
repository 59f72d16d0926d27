import { useState } from "react";
import type { Schemas } from "@/api/client";
import { PlanDrawing } from "@/charts/PlanDrawing";
import { aroundOf, boxesOf, marksOf } from "@/charts/planMarks";
import { minutesWords } from "@/lib/words";
import type { Job, LocalJob, Step } from "./local";
import { PHASES } from "./local";

/** One step: what to do, with which tool, how long, and the caution before it. */
export function StepHead({ job, local, step }: { job: Job; local: LocalJob; step: Step }) {
  return (
    <>
      <p className="font-serif text-[1.35rem] text-soft">
        Step {local.place + 1} of {job.steps.length}, {PHASES[step.phase]}
        {step.live && <strong className="ml-3 text-short">power still on</strong>}
        {step.isolates && step.phase !== "closing" && (
          <strong className="ml-3 text-covered">this cuts the power</strong>
        )}
      </p>
      {step.cautions.length > 0 && (
        <div role="note" className="my-2 border-2 border-thin bg-leaf px-3 py-2 text-[1.2rem]">
          {step.cautions.map((caution) => (
            <p key={caution}>
              <strong className="text-thin">Before this: </strong>
              {caution}
            </p>
          ))}
        </div>
      )}
      <h1 className="text-[2.4rem] leading-[1.15] max-[600px]:text-[1.7rem]">{step.text}</h1>
      <p className="mt-2 flex flex-wrap gap-x-8 text-[1.3rem] text-soft max-[600px]:gap-x-5 max-[600px]:text-[1.1rem]">
        <span>
          Tool <strong className="code text-ink">{step.tool || (job.plain ? "not said" : "hands")}</strong>
        </span>
        <Held step={step} />
        {step.minutes.mean > 0 ? (
          <span>
            About <strong className="text-ink">{minutesWords(step.minutes.mean)}</strong>
          </span>
        ) : (
          <span>minutes not known</span>
        )}
      </p>
      {step.phase === "opening" && step.bits.length > 0 && (
        <details className="mt-1 text-[1.05rem] text-soft">
          <summary className="cursor-pointer text-accent underline">Does it seat?</summary>
          {step.bits.map((words) => (
            <p key={words}>{words}</p>
          ))}
        </details>
      )}
    </>
  );
}

function Held({ step }: { step: Step }) {
  const loose = step.screws.reduce((sum, group) => sum + group.loose, 0);
  const captive = step.screws.reduce((sum, group) => sum + group.captive, 0);
  const words = [
    loose ? `${loose} loose screw${loose === 1 ? "" : "s"}` : "",
    captive ? `${captive} captive` : "",
    step.leads.length ? `${step.leads.length} lead${step.leads.length === 1 ? "" : "s"}` : "",
  ].filter(Boolean);
  if (words.length === 0) return null;
  return (
    <span>
      {step.phase === "closing" ? "Goes back" : "Held by"} <strong className="text-ink">{words.join(", ")}</strong>
    </span>
  );
}

/** The plan with what the step touches lit. */
export function StepDrawing({ page, step }: { page: Schemas["ModelPageView"] | undefined; step: Step }) {
  const [active, setActive] = useState<string | null>(null);
  const operation = page?.steps.find((entry) => entry.id === step.operation);
  if (!page?.plan) return null;
  const frees = step.position ? [step.position] : step.frees;
  const marks = operation ? marksOf(operation, true) : [];
  const words = marks.find((mark) => mark.id === active)?.words;
  return (
    <figure className="mt-4 max-w-[760px]">
      <PlanDrawing
        width={page.plan.width_mm}
        depth={page.plan.depth_mm}
        edge={page.plan.hinge_edge}
        title={`What this step touches: ${step.text}`}
        boxes={boxesOf(page, frees)}
        marks={marks}
        {...aroundOf(operation)}
        active={active}
        onActive={setActive}
        pixels={560}
      />
      <figcaption className="min-h-[1.5em] text-soft">{words ?? page.plan.seen}</figcaption>
      {(operation?.aside ?? []).map((aside) => (
        <p key={aside} className="text-soft">
          {aside}
        </p>
      ))}
      {(operation?.photos ?? []).map((photo) => (
        <img
          key={photo}
          src={`/api/v1/photos/${photo}.png`}
          alt={`Taken at this step: ${step.text}`}
          className="mt-2 max-h-[420px] max-w-full border border-rule"
        />
      ))}
    </figure>
  );
}
