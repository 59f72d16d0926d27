import { SelectField, TextField } from "@/ui/Field";
import { useShorthand } from "../models.queries";
import {
  conditionText,
  minutesText,
  type Operation,
  parseCondition,
  parseMinutes,
  parsePoints,
  pointsText,
  words,
} from "./document";
import { Needs } from "./Needs";
import { Block, Grid, LineField, Pick, Wide } from "./Parts";
import { PhotoField } from "./PhotoField";
import { Rows } from "./Rows";
import { TypedLine } from "./TypedLine";
import { useWalk } from "./useSurvey";

type Fasteners = NonNullable<Operation["fasteners"]>[number];
type Plug = NonNullable<Operation["plugs"]>[number];

export interface StepStopProps {
  operation: Operation;
  onChange: (next: Operation) => void;
  onRemove: () => void;
}

interface FieldsProps {
  operation: Operation;
  set: (next: Partial<Operation>) => void;
}

/** One step: photo first, what is undone, what it lays bare and takes out, and the way back. */
export function StepStop({ operation, onChange, onRemove }: StepStopProps) {
  const set = (next: Partial<Operation>): void => onChange({ ...operation, ...next });
  return (
    <>
      <PhotoField of="this step" photos={operation.photos ?? []} onChange={(photos) => set({ photos })} />
      <div className="mt-3">
        <What operation={operation} set={set} />
      </div>
      <Flags operation={operation} set={set} />
      <Block title="Fasteners" about="counts as far as somebody counted: 5, >=3, ~8, ?">
        <FastenersRows operation={operation} set={set} />
      </Block>
      <Block title="At the bench">
        <AtBench operation={operation} set={set} />
      </Block>
      <Block title="Plugs" about="released to a side as the user sits before the machine">
        <Plugs operation={operation} set={set} />
      </Block>
      <Block title="Where to lever">
        <Levers operation={operation} set={set} />
      </Block>
      <Block title="If it cannot be undone">
        <OneWay operation={operation} set={set} />
      </Block>
      <Block title="The way back" about="made from what is undone; only what differs is written">
        <Back operation={operation} set={set} />
      </Block>
      <button type="button" className="mt-4 min-h-[24px] text-short underline" onClick={onRemove}>
        Remove this step
      </button>
    </>
  );
}

function What({ operation, set }: FieldsProps) {
  const { positions } = useWalk();
  const parts = positions.map((part) => ({ value: part.key, label: part.label }));
  return (
    <Grid>
      <Wide>
        <TextField label="What to do" value={operation.text} onChange={(event) => set({ text: event.target.value })} />
      </Wide>
      <TextField
        label="Layer that is off then"
        placeholder="base cover"
        value={operation.layer ?? ""}
        onChange={(event) => set({ layer: event.target.value || null })}
      />
      <Needs operation={operation} onChange={(needs) => set({ needs })} />
      <Wide>
        <Pick label="Takes out" value={operation.frees ?? []} choices={parts} onChange={(frees) => set({ frees })} />
      </Wide>
      <Wide>
        <Pick
          label="Lays bare"
          value={operation.exposes ?? []}
          choices={parts}
          onChange={(exposes) => set({ exposes })}
        />
      </Wide>
    </Grid>
  );
}

function AtBench({ operation, set }: FieldsProps) {
  return (
    <Grid>
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
      <TextField
        label="Side that is up"
        placeholder="base, lid, back; empty: any"
        value={operation.face ?? ""}
        onChange={(event) => set({ face: event.target.value || null })}
      />
      <SelectField
        label="Seal"
        value={String(operation.seal === undefined ? false : operation.seal)}
        onChange={(event) => set({ seal: event.target.value === "null" ? null : event.target.value === "true" })}
      >
        <option value="false">breaks none</option>
        <option value="true">breaks one</option>
        <option value="null">not known</option>
      </SelectField>
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
        label="Optional, good for"
        value={operation.optional ?? ""}
        onChange={(event) => set({ optional: event.target.value || null })}
      />
      <LineField
        label="Only with the option"
        placeholder="battery: 56 Wh"
        value={conditionText(operation.when)}
        onCommit={(text) => set({ when: parseCondition(text) ?? null })}
      />
      <Wide>
        <LineField
          label="Cautions"
          hint="one after another, with a bar between"
          value={(operation.cautions ?? []).join(" | ")}
          onCommit={(text) => set({ cautions: barred(text) })}
        />
      </Wide>
    </Grid>
  );
}

const barred = (text: string): string[] =>
  text
    .split("|")
    .map((item) => item.trim())
    .filter(Boolean);

const FLAGS = [
  ["isolates", "cuts the power"],
  ["live", "done while the power is on"],
  ["outside", "nothing inside is reached"],
  ["bare_board", "a board lies bare"],
  ["moves_sink", "a heat sink moves"],
] as const;

function Flags({ operation, set }: FieldsProps) {
  return (
    <div className="mt-2 flex flex-wrap gap-x-4">
      {FLAGS.map(([flag, label]) => (
        <label key={flag} className="flex min-h-[24px] items-baseline gap-1.5">
          <input
            type="checkbox"
            checked={Boolean(operation[flag])}
            onChange={() => set({ [flag]: !operation[flag] })}
          />
          {label}
        </label>
      ))}
    </div>
  );
}

const CAPTIVE = [
  { value: "true", label: "captive" },
  { value: "false", label: "loose" },
  { value: "mostly", label: "mostly captive" },
];
const FASTENER_KINDS = ["screw", "jack", "cam", "latch", "clip"].map((kind) => ({ value: kind, label: kind }));

function FastenersRows({ operation, set }: FieldsProps) {
  return (
    <>
      <TypedLine
        label="Fasteners, in shorthand"
        of="this step"
        place={["operations", operation.id, "fasteners"]}
        at={{ operation }}
        placeholder="6x PH1 M2.5x4 captive, 1 hidden under label"
        hint={(line) => <ShorthandHint line={line} />}
        onRead={(read) => set({ fasteners: read.fasteners ?? [] })}
      />
      <Rows<Fasteners>
        one="group of fasteners"
        rows={operation.fasteners ?? []}
        columns={[
          { key: "count", label: "Count", as: "count" },
          { key: "kind", label: "What", as: "choice", choices: FASTENER_KINDS },
          { key: "group", label: "Called", as: "text" },
          { key: "bit", label: "Bit", as: "text" },
          { key: "thread", label: "Thread", as: "text" },
          { key: "captive", label: "Stays in", as: "choice", choices: CAPTIVE, unsaid: "not known" },
          { key: "hidden", label: "Hidden under", as: "text" },
          { key: "decoys", label: "Look-alikes that stay", as: "count" },
          { key: "at", label: "Places, mm", as: "points", hint: "x,y x,y" },
          { key: "note", label: "Printed beside", as: "text" },
          { key: "numbered", label: "numbered", as: "tick" },
        ]}
        name={(row) => row.group ?? ""}
        fresh={() => ({ group: "screws", count: "?", kind: "screw" })}
        onChange={(fasteners) => set({ fasteners })}
      />
    </>
  );
}

/** What the shorthand means, while it is typed. */
function ShorthandHint({ line }: { line: string }) {
  const understood = useShorthand(line);
  if (!understood.data) return null;
  return (
    <>
      understood {understood.data.total}: {understood.data.groups.map((group) => group.words).join("; ")}
      {understood.data.unread.length > 0 && (
        <span className="block text-thin">not understood: {understood.data.unread.join(", ")}</span>
      )}
    </>
  );
}

const PLUG_KINDS = ["slide", "press_fit", "bail", "flip_latch", "tab", "screwed_plate", "antenna", "other"].map(
  (kind) => ({ value: kind, label: kind.replace("_", " ") }),
);
const RELEASES = ["hinge", "front", "left", "right", "straight up"].map((side) => ({ value: side, label: side }));

function Plugs({ operation, set }: FieldsProps) {
  const plugs = operation.plugs ?? [];
  return (
    <>
      <Rows<Plug>
        one="plug"
        rows={plugs}
        columns={[
          { key: "name", label: "Lead", as: "text" },
          { key: "kind", label: "Plug", as: "choice", choices: PLUG_KINDS },
          { key: "release", label: "Released to", as: "choice", choices: RELEASES, unsaid: "not known" },
          { key: "at", label: "Place, mm", as: "point" },
        ]}
        name={(row) => row.name ?? ""}
        fresh={() => ({ name: "lead", kind: "other" })}
        onChange={(next) => set({ plugs: next })}
      />
      {plugs.map((plug, at) => (
        <PhotoField
          key={at}
          of={plug.name}
          photos={plug.photos ?? []}
          onChange={(photos) =>
            set({ plugs: plugs.map((other, place) => (place === at ? { ...other, photos } : other)) })
          }
        />
      ))}
    </>
  );
}

type KeepOut = NonNullable<Operation["keep_out"]>[number];

function Levers({ operation, set }: FieldsProps) {
  return (
    <>
      <LineField
        label="Lift here, mm"
        placeholder="112,76 240,76"
        value={pointsText(operation.lift_points)}
        onCommit={(text) => set({ lift_points: parsePoints(text) ?? [] })}
      />
      <Rows<KeepOut>
        one="zone to keep out of"
        rows={operation.keep_out ?? []}
        columns={[
          { key: "reason", label: "Because", as: "text" },
          { key: "x_mm", label: "From the hinge-left corner, mm", as: "number" },
          { key: "y_mm", label: "From the hinge, mm", as: "number" },
          { key: "width_mm", label: "Width, mm", as: "number" },
          { key: "depth_mm", label: "Depth, mm", as: "number" },
        ]}
        name={(row) => row.reason ?? ""}
        fresh={() => ({ reason: "", x_mm: 0, y_mm: 0, width_mm: 10, depth_mm: 10 })}
        onChange={(keep_out) => set({ keep_out })}
      />
    </>
  );
}

type NoWayBack = NonNullable<Operation["one_way"]>;

/** Why a step cannot be undone, and what that costs. */
function OneWay({ operation, set }: FieldsProps) {
  const said = operation.one_way;
  const say = (next: Partial<NoWayBack>): void =>
    set({ one_way: { ...(said ?? { reason: "", risk_minutes: 0 }), ...next } });
  return (
    <Grid>
      <TextField
        label="No way back, because"
        value={said?.reason ?? ""}
        onChange={(event) => (event.target.value ? say({ reason: event.target.value }) : set({ one_way: null }))}
      />
      {said && (
        <>
          <TextField
            label="What it destroys"
            value={said.destroys ?? ""}
            onChange={(event) => say({ destroys: event.target.value || null })}
          />
          <TextField
            label="Skill it asks for"
            value={said.skill ?? ""}
            onChange={(event) => say({ skill: event.target.value || null })}
          />
          <LineField
            label="Minutes if it goes wrong"
            value={said.risk_minutes ? String(said.risk_minutes) : ""}
            onCommit={(text) => say({ risk_minutes: Number.parseFloat(text) || 0 })}
          />
        </>
      )}
    </Grid>
  );
}

/** What differs when the step is undone. */
function Back({ operation, set }: FieldsProps) {
  const { steps } = useWalk();
  const back = operation.back ?? {};
  const say = (next: Partial<typeof back>): void => set({ back: { ...back, ...next } });
  const others = steps.filter((step) => step.id !== operation.id).map((step) => ({ value: step.id, label: step.text }));
  return (
    <Grid>
      <Wide>
        <TextField
          label="Its words"
          value={back.text ?? ""}
          onChange={(event) => say({ text: event.target.value || null })}
        />
      </Wide>
      <LineField
        label="Minutes back"
        value={minutesText(back.minutes ?? null)}
        onCommit={(text) => say({ minutes: parseMinutes(text) ?? null })}
      />
      <Pick label="Closed before" value={back.before ?? []} choices={others} onChange={(before) => say({ before })} />
      <Pick label="Closed after" value={back.after ?? []} choices={others} onChange={(after) => say({ after })} />
      <label className="flex min-h-[24px] items-baseline gap-1.5 self-end">
        <input type="checkbox" checked={Boolean(back.left_out)} onChange={() => say({ left_out: !back.left_out })} />
        stays off: never goes back
      </label>
    </Grid>
  );
}
