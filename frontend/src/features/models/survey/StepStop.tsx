import { SelectField, TextField } from "@/ui/Field";
import { conditionText, minutesText, type Operation, parseCondition, parseMinutes, words } from "./document";
import { Needs } from "./Needs";
import { Block, Grid, LineField, Pick, Wide } from "./Parts";
import { PhotoField } from "./PhotoField";
import { FastenersRows, Levers, Plugs } from "./StepLists";
import { useWalk } from "./useSurvey";

export interface StepStopProps {
  operation: Operation;
  onChange: (next: Partial<Operation>) => void;
  onRemove: () => void;
}

interface FieldsProps {
  operation: Operation;
  set: (next: Partial<Operation>) => void;
}

/** One step: photo first, what is undone, what it lays bare and takes out, and the way back. */
export function StepStop({ operation, onChange: set, onRemove }: StepStopProps) {
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
