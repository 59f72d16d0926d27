import { useState } from "react";
import type { Schemas } from "@/api/client";
import { SelectField, TextField } from "@/ui/Field";
import { useShorthand } from "../models.queries";
import { QuickLine } from "./Block";
import {
  changed,
  minutesText,
  needsText,
  type Operation,
  parseMinutes,
  parseNeeds,
  parsePlugs,
  plugsText,
  words,
} from "./document";
import { LineField } from "./LineField";
import { PhotoField } from "./PhotoField";

type Fasteners = NonNullable<Operation["fasteners"]>[number];

export interface OperationEditorProps {
  operation: Operation;
  keys: string[];
  steps: string[];
  onChange: (next: Operation) => void;
  onRemove: () => void;
}

const FLAGS = [
  ["live", "done while the power is on"],
  ["isolates", "cuts the power"],
  ["outside", "nothing inside is reached"],
  ["bare_board", "a board lies bare"],
  ["moves_sink", "a heat sink moves"],
] as const;

/** One step: what it needs first, frees and exposes; fasteners, plugs, minutes, cautions, and the way back. */
export function OperationEditor({ operation, keys, steps, onChange, onRemove }: OperationEditorProps) {
  const set = (next: Partial<Operation>): void => onChange({ ...operation, ...next });
  return (
    <div className="border-l-4 border-accent bg-pick/50 p-3">
      <div className="grid grid-cols-4 gap-3">
        <div className="col-span-2">
          <TextField
            label="What to do"
            value={operation.text}
            onChange={(event) => set({ text: event.target.value })}
          />
        </div>
        <TextField
          label="Tool"
          placeholder="PH1, PH0?, JIS0 + JIS1, hands"
          value={operation.tool ?? ""}
          onChange={(event) => set({ tool: event.target.value || null })}
        />
        <LineField
          label="Minutes"
          hint="low likely high, or one; empty: estimated"
          value={minutesText(operation.minutes ?? null)}
          onCommit={(text) => set({ minutes: parseMinutes(text) ?? null })}
        />
        <div className="col-span-2">
          <LineField
            label="Needs first"
            hint={`steps by comma, a | b for either: ${steps.filter((step) => step !== operation.id).join(", ") || "none yet"}`}
            value={needsText(operation.needs)}
            onCommit={(text) => set({ needs: parseNeeds(text) })}
          />
        </div>
        <LineField
          label="Takes out"
          value={(operation.frees ?? []).join(", ")}
          hint={`of ${keys.join(", ")}`}
          onCommit={(text) => set({ frees: words(text) })}
        />
        <LineField
          label="Lays bare"
          value={(operation.exposes ?? []).join(", ")}
          onCommit={(text) => set({ exposes: words(text) })}
        />
        <TextField
          label="Layer that is off then"
          value={operation.layer ?? ""}
          onChange={(event) => set({ layer: event.target.value || null })}
        />
        <LineField
          label="Also at hand"
          value={(operation.aids ?? []).join(", ")}
          onCommit={(text) => set({ aids: words(text) })}
        />
        <LineField
          label="Used up"
          value={(operation.consumables ?? []).join(", ")}
          onCommit={(text) => set({ consumables: words(text) })}
        />
        <TextField
          label="Side that is up"
          placeholder="base, lid, back; empty: any"
          value={operation.face ?? ""}
          onChange={(event) => set({ face: event.target.value || null })}
        />
        <SelectField
          label="Seal"
          value={String(operation.seal === undefined ? false : operation.seal)}
          onChange={(event) => set({ seal: SEALS[event.target.value] ?? null })}
        >
          <option value="false">breaks none</option>
          <option value="true">breaks one</option>
          <option value="null">not known</option>
        </SelectField>
        <TextField
          label="Optional, good for"
          value={operation.optional ?? ""}
          onChange={(event) => set({ optional: event.target.value || null })}
        />
        <OneWayFields operation={operation} set={set} />
        <div className="col-span-2">
          <LineField
            label="Plugs"
            hint="name: kind, side; next … (slide, press fit, bail, flip latch, tab, screwed plate, antenna)"
            value={plugsText(operation.plugs)}
            onCommit={(text) => set({ plugs: keepPhotos(parsePlugs(text), operation.plugs) })}
          />
        </div>
        <div className="col-span-2">
          <LineField
            label="Cautions"
            hint="one after another, with a bar between"
            value={(operation.cautions ?? []).join(" | ")}
            onCommit={(text) =>
              set({
                cautions: text
                  .split("|")
                  .map((item) => item.trim())
                  .filter(Boolean),
              })
            }
          />
        </div>
        <BackFields operation={operation} set={set} />
      </div>
      <div className="mt-2 flex flex-wrap gap-x-4">
        {FLAGS.map(([flag, label]) => (
          <label key={flag} className="flex items-baseline gap-1.5">
            <input
              type="checkbox"
              checked={Boolean(operation[flag])}
              onChange={() => set({ [flag]: !operation[flag] })}
            />
            {label}
          </label>
        ))}
        <label className="flex items-baseline gap-1.5">
          <input
            type="checkbox"
            checked={Boolean(operation.back?.left_out)}
            onChange={() => set({ back: { ...operation.back, left_out: !operation.back?.left_out } })}
          />
          never goes back
        </label>
      </div>
      <StepPhotos operation={operation} onChange={set} />
      <FastenersEditor fasteners={operation.fasteners ?? []} onChange={(fasteners) => set({ fasteners })} />
      <button type="button" className="mt-2 text-short underline" onClick={onRemove}>
        Remove this step
      </button>
    </div>
  );
}

interface FieldsProps {
  operation: Operation;
  set: (next: Partial<Operation>) => void;
}

/** Why a step cannot be undone, and what that costs. */
function OneWayFields({ operation, set }: FieldsProps) {
  return (
    <>
      <TextField
        label="No way back, because"
        value={operation.one_way?.reason ?? ""}
        onChange={(event) =>
          set({ one_way: event.target.value ? { ...operation.one_way, reason: event.target.value } : null })
        }
      />
      {operation.one_way && (
        <>
          <TextField
            label="What it destroys"
            value={operation.one_way.destroys ?? ""}
            onChange={(event) => set({ one_way: oneWay(operation, { destroys: event.target.value || null }) })}
          />
          <TextField
            label="Skill it asks for"
            value={operation.one_way.skill ?? ""}
            onChange={(event) => set({ one_way: oneWay(operation, { skill: event.target.value || null }) })}
          />
          <LineField
            label="Minutes if it goes wrong"
            value={operation.one_way.risk_minutes ? String(operation.one_way.risk_minutes) : ""}
            onCommit={(text) => set({ one_way: oneWay(operation, { risk_minutes: Number.parseFloat(text) || 0 }) })}
          />
        </>
      )}
    </>
  );
}

/** What differs when the step is undone. */
function BackFields({ operation, set }: FieldsProps) {
  return (
    <>
      <div className="col-span-2">
        <TextField
          label="Way back, where it differs"
          value={operation.back?.text ?? ""}
          onChange={(event) => set({ back: { ...operation.back, text: event.target.value || null } })}
        />
      </div>
      <LineField
        label="Back before"
        value={(operation.back?.before ?? []).join(", ")}
        onCommit={(text) => set({ back: { ...operation.back, before: words(text) } })}
      />
      <LineField
        label="Back after"
        value={(operation.back?.after ?? []).join(", ")}
        onCommit={(text) => set({ back: { ...operation.back, after: words(text) } })}
      />
    </>
  );
}

type Plugs = NonNullable<Operation["plugs"]>;

/** Photos of the step and of each of its plugs. */
function StepPhotos({ operation, onChange }: { operation: Operation; onChange: (next: Partial<Operation>) => void }) {
  const plugs = operation.plugs ?? [];
  return (
    <div className="mt-2 flex flex-wrap gap-x-6 gap-y-1">
      <PhotoField of="the step" photos={operation.photos ?? []} onChange={(photos) => onChange({ photos })} />
      {plugs.map((plug, place) => (
        <PhotoField
          key={plug.name}
          of={plug.name}
          photos={plug.photos ?? []}
          onChange={(photos) => onChange({ plugs: changed(plugs, place, { ...plug, photos }) })}
        />
      ))}
    </div>
  );
}

/** A line of plugs written anew keeps the photos of those that keep their name. */
function keepPhotos(plugs: Plugs, before: Plugs | undefined): Plugs {
  return plugs.map((plug) => {
    const photos = before?.find((other) => other.name === plug.name)?.photos;
    return photos?.length ? { ...plug, photos } : plug;
  });
}

const SEALS: Record<string, boolean> = { true: true, false: false };
type OneWay = NonNullable<Operation["one_way"]>;

/** What is said of a step that cannot be undone, with one thing said anew. */
const oneWay = (operation: Operation, next: Partial<OneWay>): OneWay => ({
  ...(operation.one_way ?? { reason: "", risk_minutes: 0 }),
  ...next,
});

const HELD: Record<string, string> = { true: ", captive", false: ", loose", mostly: ", mostly captive" };

function FastenersEditor({ fasteners, onChange }: { fasteners: Fasteners[]; onChange: (next: Fasteners[]) => void }) {
  const [typed, setTyped] = useState("");
  const understood = useShorthand(typed);
  const add = (): boolean => {
    const groups = fastenersFrom(understood.data?.groups ?? []);
    if (groups.length === 0) return false;
    onChange([...fasteners, ...groups]);
    return true;
  };
  return (
    <div className="mt-2">
      <ul className="text-[0.95rem]">
        {fasteners.map((item, place) => (
          <li
            key={`${item.group}-${item.hidden}-${item.count}`}
            className="flex items-baseline gap-3 border-b border-dotted border-rule"
          >
            <span>
              {item.count} × {item.group}
              {HELD[String(item.captive)] ?? ", captive or loose not known"}
              {item.hidden && `, under ${item.hidden}`}
            </span>
            <LineFieldInline
              label={`Places of ${item.group}, mm`}
              value={(item.at ?? []).map((point) => point.join(" ")).join("; ")}
              onCommit={(text) =>
                onChange(fasteners.map((other, at) => (at === place ? { ...other, at: pointsFrom(text) } : other)))
              }
            />
            <button
              type="button"
              className="text-accent underline"
              aria-label={`Remove ${item.group}`}
              onClick={() => onChange(fasteners.filter((_, at) => at !== place))}
            >
              remove
            </button>
          </li>
        ))}
      </ul>
      <QuickLine
        label="Fasteners, in shorthand"
        placeholder="6x PH1 M2.5x4 captive, 1 hidden under label"
        onType={setTyped}
        onEnter={add}
        hint={
          typed && understood.data ? (
            <>
              understood {understood.data.total}: {understood.data.groups.map((group) => group.words).join("; ")}
              {understood.data.unread.length > 0 && (
                <span className="block text-thin">not understood: {understood.data.unread.join(", ")}</span>
              )}
            </>
          ) : null
        }
      />
    </div>
  );
}

function LineFieldInline({
  label,
  value,
  onCommit,
}: {
  label: string;
  value: string;
  onCommit: (text: string) => void;
}) {
  const [text, setText] = useState(value);
  return (
    <input
      aria-label={label}
      placeholder="places: x y; x y; …"
      className="ml-auto w-[220px] border-b border-soft bg-transparent"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => text !== value && onCommit(text)}
    />
  );
}

function pointsFrom(text: string): number[][] {
  return text
    .split(";")
    .map((pair) =>
      pair
        .trim()
        .split(/[\s,]+/)
        .map(Number.parseFloat),
    )
    .filter((pair) => pair.length === 2 && pair.every(Number.isFinite));
}

/** What the server understood, as a page writes it. */
export function fastenersFrom(groups: Schemas["UnderstoodGroup"][]): Fasteners[] {
  return groups.map(({ entry }) => ({
    group: String(entry.group),
    count: typeof entry.count === "string" ? entry.count : Number(entry.count),
    ...(typeof entry.bit === "string" ? { bit: entry.bit } : {}),
    ...(typeof entry.thread === "string" ? { thread: entry.thread } : {}),
    ...(typeof entry.captive === "boolean" || entry.captive === "mostly" ? { captive: entry.captive } : {}),
    ...(typeof entry.hidden === "string" ? { hidden: entry.hidden } : {}),
    ...(entry.numbered === true ? { numbered: true } : {}),
    ...(isKind(entry.kind) ? { kind: entry.kind } : {}),
  }));
}

type KindOfFastener = NonNullable<Fasteners["kind"]>;
const isKind = (kind: unknown): kind is KindOfFastener =>
  kind === "screw" || kind === "jack" || kind === "cam" || kind === "latch" || kind === "clip";
