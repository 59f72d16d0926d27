import { type ReactNode, useState } from "react";
import { type PlanBox, PlanDrawing, type PlanMark, PlanShape } from "@/charts/PlanDrawing";
import { marksOf, shapeOf } from "@/charts/planMarks";
import { HELD_NAMES, kindColour, minutesWords } from "@/lib/words";
import type { ModelPageData, PositionDetail, StepView } from "./models.queries";

export interface PlanPaneProps {
  page: ModelPageData;
  plan: NonNullable<ModelPageData["plan"]>;
  chosen: PositionDetail | undefined;
  onChoose: (key: string) => void;
  aside: ReactNode;
}

/** The plan with its layers, a line that says what is under the pointer or the focus, and the legend of the layer shown. */
export function PlanPane({ page, plan, chosen, onChoose, aside }: PlanPaneProps) {
  const [picked, setPicked] = useState<string | null>(null);
  const [active, setActive] = useState<string | null>(null);
  const names = layerNames(page);
  const layer = picked ?? firstInside(page, chosen, names);
  const boxes = boxesAt(page, layer, names, chosen);
  const marks = marksAt(page, layer, names);
  const words = [...marks, ...boxes.map((box) => ({ id: box.key, words: `${box.label}: ${box.words}` }))].find(
    (item) => item.id === active,
  )?.words;
  return (
    <div className="mt-2 grid grid-cols-[minmax(0,1fr)_290px] gap-5 max-[1100px]:grid-cols-1">
      <div>
        <PlanDrawing
          width={plan.width_mm}
          depth={plan.depth_mm}
          edge={`${plan.hinge_edge} · ${plan.width_mm} × ${plan.depth_mm} mm`}
          title={`Plan of ${page.maker} ${page.name}, ${plan.seen}; arrow keys walk parts, screws and plugs`}
          boxes={boxes}
          marks={marks}
          active={active}
          onActive={setActive}
          onChoose={onChoose}
        />
        <p aria-live="polite" className="min-h-[1.5em] pt-1 text-[0.95rem]">
          {words ?? (
            <span className="text-soft">Point at a part, screw or plug, or walk them with the arrow keys.</span>
          )}
        </p>
      </div>
      <div className="min-w-0">
        {aside}
        <LayerSwitch names={names} layer={layer} onPick={setPicked} />
        <Legend page={page} layer={layer} />
      </div>
    </div>
  );
}

function LayerSwitch({ names, layer, onPick }: { names: string[]; layer: string; onPick: (name: string) => void }) {
  return (
    <fieldset className="mt-3">
      <legend className="w-full border-b border-rule pb-0.5 font-semibold">Layer</legend>
      <div className="flex flex-wrap gap-x-3 pt-1">
        {names.map((name) => (
          <label
            key={name}
            className={`cursor-pointer border-b-2 ${
              name === layer ? "border-accent font-semibold" : "border-transparent text-soft hover:text-ink"
            } has-[:focus-visible]:outline-2 has-[:focus-visible]:outline-accent`}
          >
            <input
              type="radio"
              name="layer"
              className="sr-only"
              checked={name === layer}
              onChange={() => onPick(name)}
            />
            {name === "outside" ? "closed" : `${name} off`}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

/** The fasteners undone for this layer and in it, each with the mark it has on the plan. */
function Legend({ page, layer }: { page: ModelPageData; layer: string }) {
  const lines = legendLines(page.steps.filter((step) => step.layer === layer || step.under === layer));
  if (lines.length === 0) return null;
  return (
    <section className="mt-3">
      <h2 className="border-b border-rule pb-0.5 font-sans text-base">Fasteners</h2>
      <ul className="pt-1 text-[0.93rem]">
        {lines.map(({ id, item, words }) => (
          <li key={id} className="flex items-start gap-2 py-[1px]">
            <svg viewBox="-9 -8 18 26" className="h-[18px] w-[13px] shrink-0" aria-hidden="true">
              <PlanShape
                mark={{
                  id,
                  x: 0,
                  y: 0,
                  shape: shapeOf(item),
                  thread: null,
                  group: item.group,
                  lit: false,
                  faint: false,
                  words: "",
                }}
                unit={1}
                active={false}
              />
            </svg>
            <span>{words}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

interface LegendLine {
  id: string;
  item: StepView["fasteners"][number];
  words: string;
}

/** Equal fasteners of several steps are one line with their sum; those nobody counted stand for themselves. */
function legendLines(steps: StepView[]): LegendLine[] {
  const found = new Map<string, LegendLine>();
  for (const item of steps.flatMap((step) => step.fasteners)) {
    if (!item.exact) {
      found.set(`${found.size} ${item.words}`, { id: `${found.size} ${item.words}`, item, words: item.words });
      continue;
    }
    const rest = item.words.slice(String(item.count).length);
    const before = found.get(rest);
    const count = item.count + (before?.item.count ?? 0);
    found.set(rest, { id: rest, item: { ...item, count }, words: `${count}${rest}` });
  }
  return [...found.values()];
}

/** Layers in the order they come off, the closed machine first where something is done outside. */
export function layerNames(page: ModelPageData): string[] {
  const named = page.layers.map((layer) => layer.name).filter((name) => name !== "unknown" && name !== "outside");
  return ["outside", ...named];
}

function firstInside(page: ModelPageData, chosen: PositionDetail | undefined, names: string[]): string {
  const reached = page.positions.find((entry) => entry.key === chosen?.reached);
  const layer = (reached ?? chosen)?.layer ?? "";
  return names.includes(layer) && layer !== "outside" ? layer : (names[1] ?? "outside");
}

/** What is bare once a layer is off; what still lies deeper, or is not laid bare yet, is drawn faint. */
function boxesAt(page: ModelPageData, layer: string, names: string[], chosen: PositionDetail | undefined): PlanBox[] {
  const depth = (name: string): number => (names.includes(name) ? names.indexOf(name) : names.length);
  const bare = exposedBy(page, layer, names);
  return page.positions.flatMap((entry) => {
    if (!entry.place || entry.state === "not_fitted") return [];
    return [
      {
        key: entry.key,
        label: entry.label,
        note: noteOf(entry),
        colour: kindColour(entry.kind),
        x: entry.place.x_mm,
        y: entry.place.y_mm,
        width: entry.place.width_mm,
        depth: entry.place.depth_mm,
        chosen: entry.key === chosen?.key,
        covered: !bare.has(entry.key) && depth(entry.layer) > depth(layer),
        soldered: entry.serviceability === "soldered" || entry.state === "free",
        words: sentence(entry),
      },
    ];
  });
}

function exposedBy(page: ModelPageData, layer: string, names: string[]): Set<string> {
  const off = new Set(names.slice(0, names.indexOf(layer) + 1));
  return new Set(page.steps.filter((step) => step.layer && off.has(step.layer)).flatMap((step) => step.exposes));
}

function noteOf(entry: PositionDetail): string {
  if (entry.state === "free") return "free place";
  if (entry.serviceability === "soldered") return "soldered";
  if (entry.kind === "battery")
    return entry.facts.find((fact) => fact.name === "energy_wh")?.statements[0]?.value ?? "";
  const fasteners = HELD_NAMES[entry.serviceability] ?? "";
  return entry.minutes === null ? fasteners : `${fasteners}, ${reach(entry, entry.minutes)}`;
}

const reach = (entry: PositionDetail, minutes: number): string =>
  `${entry.at_least ? "at least " : ""}${minutesWords(minutes)}`;

function sentence(entry: PositionDetail): string {
  const held = HELD_NAMES[entry.serviceability] ?? entry.serviceability;
  const parts = [
    entry.takes,
    held,
    entry.minutes === null ? "no way in is known" : `${reach(entry, entry.minutes)} to reach`,
  ];
  if (entry.when) parts.push(`only with ${entry.when}`);
  return parts.filter(Boolean).join(", ");
}

/** What can be undone now, and faintly what was undone to get here. */
function marksAt(page: ModelPageData, layer: string, names: string[]): PlanMark[] {
  const off = new Set(names.slice(0, names.indexOf(layer) + 1));
  const done = (step: StepView): boolean => step.layer !== null && off.has(step.layer);
  return page.steps.filter((step) => off.has(step.under)).flatMap((step) => marksOf(step, false, done(step)));
}
