import { useEffect, useRef, useState } from "react";
import { Link, useOutletContext, useParams, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { useAddress } from "@/lib/useAddress";
import { Button } from "@/ui/Button";
import { Failed, Nothing, Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { useCheck, useDocument, useModels } from "../models.queries";
import { ChecksPane } from "./ChecksPane";
import { ClosingStop } from "./ClosingStop";
import { emptyPage, keyFrom, type Operation, type Page } from "./document";
import { InsideStop } from "./InsideStop";
import { MachineStop } from "./MachineStop";
import { OpeningStop } from "./OpeningStop";
import { PartStop } from "./PartStop";
import { SaveBar } from "./SaveBar";
import { StepStop } from "./StepStop";
import { type Survey, useSurvey, useWalk, WalkContext, type Walking } from "./useSurvey";
import { NextStep, WalkRail } from "./WalkRail";
import { layerAbove, type Stop, stepStop, stopOf, stopsOf } from "./walk";

type Session = Schemas["SessionState"];
const PAUSE_MS = 500;

/** Writing a page by walking the machine, one stop after another: outside, how it opens, what comes off and what lies beneath. */
export default function SurveyPage() {
  const { id } = useParams();
  const session = useOutletContext<Session>();
  if (session.user?.role === "reader") {
    return <Nothing>A survey is written by technicians and leads. You are signed in as a reader.</Nothing>;
  }
  return id ? <KnownModel id={Number(id)} session={session} /> : <NewModel session={session} />;
}

function KnownModel({ id, session }: { id: number; session: Session }) {
  const document = useDocument(id);
  if (document.isError) return <Failed title="No page" detail={document.error.message} />;
  if (!document.data) return <Waiting what="Fetching the page" />;
  const { page, number, sibling } = document.data;
  return (
    <Desk key={id} name={String(id)} begun={page} number={number} model={id} sibling={sibling} session={session} />
  );
}

function NewModel({ session }: { session: Session }) {
  const [params] = useSearchParams();
  const inherits = params.get("inherits");
  const sibling = useSibling(inherits);
  if (inherits && !sibling) return <Waiting what="Fetching the sibling" />;
  const evidence = { grade: "measured" as const, source: session.user?.name ?? "", date: session.as_of };
  const name = inherits ? `new.${inherits}` : "new";
  const begun = emptyPage(evidence, inherits);
  return <Desk key={name} name={name} begun={begun} number={null} model={null} sibling={sibling} session={session} />;
}

/** The whole page of a model by maker and name, for a new page that inherits from it. */
function useSibling(name: string | null): Page | null {
  const index = useModels("");
  const row = name ? index.data?.models.find((model) => `${model.maker} ${model.name}` === name) : undefined;
  const document = useDocument(row?.model_id ?? null);
  return document.data ? (document.data.sibling ?? document.data.page) : null;
}

interface DeskProps {
  name: string;
  begun: Page;
  number: number | null;
  model: number | null;
  sibling: Page | null;
  session: Session;
}

function Desk({ name, begun, number, model, sibling, session }: DeskProps) {
  const survey = useSurvey(name, begun, number);
  const [params, changeAddress] = useAddress();
  const walk = walking(survey, sibling, session, (stop) => changeAddress({ at: stop }, "replace"));
  const stops = stopsOf(survey.page);
  const at = stops.find((stop) => stop.id === params.get("at")) ?? (stops[0] as Stop);
  const checked = useChecked(survey.page);
  return (
    <WalkContext value={walk}>
      <Spread
        name="survey"
        share={68}
        leftLabel="Survey"
        rightLabel="What is still missing"
        left={
          <div className="p-4">
            <Head survey={survey} model={model} />
            <div className="mt-2 grid grid-cols-[230px_minmax(0,1fr)] gap-5 max-[900px]:grid-cols-1">
              <div>
                <WalkRail stops={stops} at={at} open={openBy(checked?.faults ?? [], survey.page)} />
                <AddStep at={at} />
              </div>
              <Here key={at.id} at={at} stops={stops} fixed={model !== null} sibling={sibling} />
            </div>
          </div>
        }
        right={
          <div className="p-4">
            <SaveBar survey={survey} model={model} />
            <ChecksPane checked={checked} page={survey.page} at={at} stops={stops} onGo={walk.go} />
          </div>
        }
      />
    </WalkContext>
  );
}

function walking(survey: Survey, sibling: Page | null, session: Session, go: (stop: string) => void): Walking {
  const { page } = survey;
  const mine = { grade: "measured" as const, source: session.user?.name ?? "", date: session.as_of };
  const above = page.inherits ? sibling : null;
  const keys = new Set([...(page.positions ?? []).map((part) => part.key), ...(page.removed?.positions ?? [])]);
  const ids = new Set([...(page.operations ?? []).map((step) => step.id), ...(page.removed?.operations ?? [])]);
  return {
    ...survey,
    evidence: page.evidence ?? mine,
    today: session.as_of,
    positions: [...(page.positions ?? []), ...(above?.positions ?? []).filter((part) => !keys.has(part.key))],
    steps: [...(page.operations ?? []), ...(above?.operations ?? []).filter((step) => !ids.has(step.id))],
    go,
  };
}

/** What is said of the page as it stands, asked again when the pen rests. */
function useChecked(page: Page): Schemas["PageChecked"] | undefined {
  const [asked, setAsked] = useState<Page>(page);
  useEffect(() => {
    const timer = setTimeout(() => setAsked(page), PAUSE_MS);
    return () => clearTimeout(timer);
  }, [page]);
  return useCheck(asked).data;
}

function openBy(faults: Schemas["PageFaultView"][], page: Page): Map<string, { wrong: number; open: number }> {
  const found = new Map<string, { wrong: number; open: number }>();
  for (const fault of faults) {
    if (fault.noted) continue;
    const stop = stopOf(fault, page);
    const left = found.get(stop) ?? { wrong: 0, open: 0 };
    found.set(stop, fault.open ? { ...left, open: left.open + 1 } : { ...left, wrong: left.wrong + 1 });
  }
  return found;
}

function Head({ survey, model }: { survey: Survey; model: number | null }) {
  const title = [survey.page.maker, survey.page.name].filter(Boolean).join(" ");
  return (
    <header className="flex flex-wrap items-baseline gap-x-4 border-b border-rule pb-1">
      <h1 className="text-[1.75rem]">{model === null && !title ? "New model" : `Survey, ${title}`}</h1>
      <p className="text-soft">{survey.unsaved ? "not saved yet, kept in this browser" : "nothing changed"}</p>
      <Link className="ml-auto text-accent underline" to={model ? `/models/${model}` : "/models"}>
        leave
      </Link>
      {survey.unsaved && (
        <Button look="quiet" onClick={survey.forget}>
          Throw changes away
        </Button>
      )}
    </header>
  );
}

/** Adds steps to the page under the pen, and goes to them. */
function useNewStep(page: Page, walk: Walking): (step: Partial<Operation>) => void {
  return (step) => {
    const text = step.text ?? "";
    const id = keyFrom(
      text.split(" ").slice(0, 5).join(" "),
      walk.steps.map((other) => other.id),
    );
    walk.change({ operations: [...(page.operations ?? []), { ...step, id, text }] });
    walk.go(stepStop(id));
  };
}

function AddStep({ at }: { at: Stop }) {
  const walk = useWalk();
  const here = walk.steps.find((step) => at.what === "step" && step.id === at.of);
  return <NextStep at={here} onAdd={useNewStep(walk.page, walk)} />;
}

interface HereProps {
  at: Stop;
  stops: Stop[];
  fixed: boolean;
  sibling: Page | null;
}

/** The stop at hand, and the way to the next. */
function Here({ at, stops, fixed, sibling }: HereProps) {
  const head = useRef<HTMLHeadingElement>(null);
  const [params] = useSearchParams();
  // Whoever goes on to a stop goes on typing there; whoever opens the survey is left where they are.
  useEffect(() => {
    if (params.get("at") === at.id) head.current?.focus();
  }, [params, at.id]);
  return (
    <section aria-label={at.label} className="min-w-0">
      <h2 ref={head} tabIndex={-1} className="text-[1.35rem] outline-none">
        {at.label}
      </h2>
      <div className="pt-2">
        <AtStop at={at} fixed={fixed} sibling={sibling} />
      </div>
      <Onward at={at} stops={stops} />
    </section>
  );
}

function AtStop({ at, fixed, sibling }: Omit<HereProps, "stops">) {
  const walk = useWalk();
  if (at.what === "machine") return <MachineStop fixed={fixed} />;
  if (at.what === "opening") return <OpeningStop />;
  if (at.what === "closing") return <ClosingStop />;
  if (at.what === "inside") return <InsideStop sibling={sibling} />;
  return at.what === "step" ? <StepAt walk={walk} id={at.of} /> : <PartAt walk={walk} part={at.of} />;
}

function StepAt({ walk, id }: { walk: Walking; id: string }) {
  const steps = walk.page.operations ?? [];
  const step = steps.find((one) => one.id === id);
  if (!step) return null;
  return (
    <StepStop
      operation={step}
      onChange={(next) =>
        walk.change((page) => ({
          operations: (page.operations ?? []).map((one) => (one.id === id ? { ...one, ...next } : one)),
        }))
      }
      onRemove={() => walk.change((page) => ({ operations: (page.operations ?? []).filter((one) => one.id !== id) }))}
    />
  );
}

function PartAt({ walk, part }: { walk: Walking; part: string }) {
  const position = (walk.page.positions ?? []).find((one) => one.key === part);
  const begin = useNewStep(walk.page, walk);
  if (!position) return null;
  const layer = layerAbove(walk.steps, undefined);
  const power = walk.steps.find((step) => step.isolates)?.id;
  const above = [layer, power].filter((name) => name !== null && name !== undefined);
  return (
    <PartStop
      position={position}
      onChange={(next) =>
        walk.change((page) => ({
          positions: (page.positions ?? []).map((one) => (one.key === part ? { ...one, ...next } : one)),
        }))
      }
      onRemove={() => walk.change((page) => ({ positions: (page.positions ?? []).filter((one) => one.key !== part) }))}
      onStep={(step) => begin({ ...step, needs: above })}
    />
  );
}

function Onward({ at, stops }: { at: Stop; stops: Stop[] }) {
  const { go } = useWalk();
  const place = stops.findIndex((stop) => stop.id === at.id);
  const before = stops[place - 1];
  const next = stops[place + 1];
  return (
    <nav aria-label="Back and on" className="mt-5 flex flex-wrap gap-2 border-t border-rule pt-2">
      {before && <Button onClick={() => go(before.id)}>Back: {before.label}</Button>}
      {next && (
        <Button look="main" onClick={() => go(next.id)}>
          On: {next.label}
        </Button>
      )}
    </nav>
  );
}
