import { useState } from "react";
import { Link } from "react-router";
import { PlanDrawing } from "@/charts/PlanDrawing";
import { aroundOf, boxesOf, marksOf } from "@/charts/planMarks";
import { useAddress } from "@/lib/useAddress";
import { minutesWords } from "@/lib/words";
import { Failed, Waiting } from "@/ui/Notice";
import { LiftHelper } from "./LiftHelper";
import type { ModelPageData, RouteAsk, RouteData } from "./models.queries";
import { sheetAddress, useRoute } from "./models.queries";
import { RouteSide } from "./RouteSide";

type RouteStep = RouteData["steps"][number];

/** The way in and back: steps with their cautions before them, kit, trays and leads, and what else could be done meanwhile. */
export function RoutePage({ page }: { page: ModelPageData }) {
  const [params, changeAddress] = useAddress();
  const ask: RouteAsk = {
    to: list(params.get("to")),
    itself: list(params.get("itself")),
    include: list(params.get("include")),
    options: list(params.get("options")),
    packOut: params.get("pack") === "out",
  };
  const route = useRoute(page.model_id, ask);
  const [at, setAt] = useState<string | null>(null);
  const change = (name: string, values: string[]): void => changeAddress({ [name]: values.join(",") });
  return (
    <article className="p-4">
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-[1.75rem]">
          Route, {page.maker} {page.name}
        </h1>
        <Link className="text-accent underline" to={`/models/${page.model_id}${ask.to[0] ? `?at=${ask.to[0]}` : ""}`}>
          back to the page
        </Link>
        <span className="no-print ml-auto flex flex-wrap gap-3 text-[0.95rem]">
          {ask.to.length > 0 && (
            <Link className="text-accent underline" to={`/bench/new?to=${ask.to.join(",")}`}>
              Open a job
            </Link>
          )}
          <a
            className="text-accent underline"
            href={sheetAddress(page.model_id, "route", ask)}
            target="_blank"
            rel="noreferrer"
          >
            Print route sheet
          </a>
          {(["A4", "Letter", "A3"] as const).map((paper) => (
            <a
              key={paper}
              className="text-accent underline"
              href={sheetAddress(page.model_id, "mat", ask, paper)}
              target="_blank"
              rel="noreferrer"
            >
              Screw mat {paper}
            </a>
          ))}
        </span>
      </header>
      <Targets page={page} ask={ask} change={change} />
      {ask.to.length === 0 && <p className="mt-3 text-soft">Choose one or more parts to reach.</p>}
      {route.isError && <Failed title="No way in" detail={route.error.message} />}
      {ask.to.length > 0 && !route.data && !route.isError && <Waiting what="Planning the way in" />}
      {route.data && ask.to.length > 0 && (
        <div className="mt-3 grid grid-cols-[minmax(0,1fr)_320px] gap-5 max-[1100px]:grid-cols-1">
          <Steps route={route.data} page={page} at={at} onAt={setAt} />
          <div className="min-w-0">
            <StepPlan page={page} at={at ?? route.data.steps[0]?.id ?? null} />
            <RouteSide page={page} route={route.data} ask={ask} change={change} />
          </div>
        </div>
      )}
    </article>
  );
}

const list = (text: string | null): string[] => (text ? text.split(",").filter(Boolean) : []);

interface TargetsProps {
  page: ModelPageData;
  ask: RouteAsk;
  change: (name: string, values: string[]) => void;
}

function Targets({ page, ask, change }: TargetsProps) {
  const toggle = (key: string): void =>
    change("to", ask.to.includes(key) ? ask.to.filter((other) => other !== key) : [...ask.to, key]);
  return (
    <div className="no-print mt-2">
      <fieldset>
        <legend className="font-semibold">Reach</legend>
        <div className="flex flex-wrap gap-x-4">
          {page.positions.map((entry) => (
            <label key={entry.key} className="flex items-baseline gap-1.5 py-1">
              <input type="checkbox" checked={ask.to.includes(entry.key)} onChange={() => toggle(entry.key)} />
              {entry.label}
            </label>
          ))}
        </div>
      </fieldset>
      {page.options.length > 0 && (
        <div className="mt-1 flex flex-wrap gap-4">
          {page.options.map((option) => (
            <label key={option.name}>
              {option.name.replaceAll("_", " ")}{" "}
              <select
                className="border-b border-ink bg-transparent font-semibold"
                value={ask.options.find((item) => item.startsWith(`${option.name}:`))?.split(":")[1] ?? ""}
                onChange={(event) =>
                  change("options", [
                    ...ask.options.filter((item) => !item.startsWith(`${option.name}:`)),
                    ...(event.target.value ? [`${option.name}:${event.target.value}`] : []),
                  ])
                }
              >
                <option value="">not known</option>
                {option.values.map((value) => (
                  <option key={value.value}>{value.value}</option>
                ))}
              </select>
            </label>
          ))}
        </div>
      )}
    </div>
  );
}

interface StepsProps {
  route: RouteData;
  page: ModelPageData;
  at: string | null;
  onAt: (id: string) => void;
}

function Steps({ route, page, at, onAt }: StepsProps) {
  return (
    <div>
      {route.escalations.map((item) => (
        <p key={item.target} className="mb-2 border-l-4 border-thin bg-pick px-2 py-1">
          <strong>{item.target_label}</strong>: {item.reason}. Reached as {item.reached_label.toLowerCase()}
          {item.takes_along.length > 0 && `, which brings ${item.takes_along.join(", ").toLowerCase()} along`}.
        </p>
      ))}
      {route.depends.map((option) => (
        <p key={option} className="mb-2 border-l-4 border-thin bg-pick px-2 py-1">
          This way takes for granted what nobody knows of the machine: <strong>{option.replaceAll("_", " ")}</strong>.
          Choose its value above once it is seen.
        </p>
      ))}
      {route.ends.map((end) => (
        <p key={end.target} className="mb-2 border-l-4 border-thin bg-pick px-2 py-1 font-semibold">
          {end.words}.
        </p>
      ))}
      {route.power === "unknown" && (
        <p className="mb-2 border-l-4 border-short bg-pick px-2 py-1 font-semibold">
          No step of this page cuts the power. Stop and find out how before anything inside is touched.
        </p>
      )}
      <p className="mb-1 border-l-4 border-thin bg-pick px-2 py-1">
        Before the first screw: shut down, charger or mains out, power button held 15 s, no light. A swollen, dented,
        hot or leaking pack stops the job: quarantine it, call the site's fire and safety officer.
      </p>
      <h2 className="mt-3 border-b border-ink text-[1.15rem]">In</h2>
      <ol>
        {route.steps.map((step, place) => (
          <Step
            key={step.id}
            step={step}
            number={place + 1}
            chosen={step.id === at}
            page={page}
            onAt={() => onAt(step.id)}
          />
        ))}
        {route.ends.map((end) => (
          <li key={end.target} className="flex gap-3 py-1.5 font-semibold text-thin">
            <span className="w-6 text-right">?</span>
            <span>From here nobody has looked: write down what you find.</span>
          </li>
        ))}
      </ol>
      <h2 className="mt-5 border-b border-ink text-[1.15rem]">Back</h2>
      <ol className="text-[0.97rem]">
        {route.back.map((step, place) => (
          <li key={step.operation} className="border-b border-dotted border-rule py-1">
            <Cautions words={step.cautions} />
            <div className="flex items-baseline gap-3">
              <span className="w-6 text-right text-soft">{place + 1}</span>
              <span className={`flex-1 ${step.left_out ? "text-soft line-through" : ""}`}>{step.text}</span>
              <StepMinutes minutes={step.minutes} />
            </div>
          </li>
        ))}
      </ol>
    </div>
  );
}

const NOT_SAID = "tool not known";

const Cautions = ({ words }: { words: string[] }) => (
  <>
    {words.map((caution) => (
      <p key={caution} className="ml-9 border-l-4 border-thin pl-2 text-[0.93rem] font-semibold text-thin">
        {caution}
      </p>
    ))}
  </>
);

/** What a step takes; a wave before it where nobody timed it. */
function StepMinutes({ minutes }: { minutes: RouteStep["minutes"] }) {
  const guessed = minutes.estimated > 0;
  const span = `${minutes.low.toFixed(1)} to ${minutes.high.toFixed(1)} min${guessed ? ", estimated: nobody timed it" : ""}`;
  return (
    <span className={`min-w-16 text-right whitespace-nowrap ${guessed ? "text-thin" : ""}`} title={span}>
      {guessed && "est. "}
      {minutesWords(minutes.mean)}
    </span>
  );
}

interface StepProps {
  step: RouteStep;
  number: number;
  chosen: boolean;
  page: ModelPageData;
  onAt: () => void;
}

function Step({ step, number, chosen, page, onAt }: StepProps) {
  const written = page.steps.find((entry) => entry.id === step.id);
  const layer = written?.layer;
  const photos = written?.photos ?? [];
  return (
    <li className={`border-b border-dotted border-rule py-1.5 ${chosen ? "bg-pick" : ""}`}>
      <Cautions words={step.cautions} />
      <div className="flex items-baseline gap-3">
        <span className="w-6 text-right text-soft">{number}</span>
        <button type="button" className="flex-1 text-left hover:underline" onClick={onAt} aria-pressed={chosen}>
          {step.text}
          {step.live && <Mark tone="text-short">power on</Mark>}
          {step.isolates && <Mark tone="text-covered">cuts the power</Mark>}
          {step.one_way && <Mark tone="text-short">no way back</Mark>}
          {step.seal === null && <Mark tone="text-thin">seal not known</Mark>}
          {step.optional && <Mark tone="text-soft">optional</Mark>}
        </button>
        {step.face && <span className="text-[0.9rem] text-soft whitespace-nowrap">{step.face} up</span>}
        <span className={`code whitespace-nowrap ${step.tool === NOT_SAID ? "text-thin" : ""}`}>{step.tool}</span>
        <StepMinutes minutes={step.minutes} />
      </div>
      {step.touches.length > 0 && <p className="ml-9 text-[0.93rem] text-soft">{step.touches.join("; ")}</p>}
      {(written?.aside ?? []).map((words) => (
        <p key={words} className="ml-9 text-[0.93rem] text-soft">
          {words}
        </p>
      ))}
      {step.doubts.map((words) => (
        <p key={words} className="ml-9 text-[0.93rem] text-thin">
          {words}
        </p>
      ))}
      {photos.length > 0 && (
        <p className="no-print ml-9 flex gap-2">
          {photos.map((photo, place) => (
            <a key={photo} className="text-accent underline" href={`/api/v1/photos/${photo}.png`}>
              photo {place + 1}
            </a>
          ))}
        </p>
      )}
      {layer && <LiftHelper model={page.model_id} operation={step.id} />}
    </li>
  );
}

const Mark = ({ tone, children }: { tone: string; children: React.ReactNode }) => (
  <span className={`ml-2 text-[0.9rem] font-semibold ${tone}`}>{children}</span>
);

/** The plan with what the chosen step touches lit. */
function StepPlan({ page, at }: { page: ModelPageData; at: string | null }) {
  const [active, setActive] = useState<string | null>(null);
  const step = page.steps.find((entry) => entry.id === at);
  if (!page.plan || !step) return null;
  return (
    <figure className="mb-3">
      <PlanDrawing
        width={page.plan.width_mm}
        depth={page.plan.depth_mm}
        edge={page.plan.hinge_edge}
        title={`What the step touches: ${step.text}`}
        boxes={boxesOf(page, step.frees)}
        marks={marksOf(step, true)}
        {...aroundOf(step)}
        active={active}
        onActive={setActive}
        pixels={330}
      />
      <figcaption className="text-[0.93rem] text-soft">{step.text}</figcaption>
    </figure>
  );
}
