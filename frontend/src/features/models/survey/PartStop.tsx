import { HELD_NAMES, KIND_NAMES } from "@/lib/words";
import { Button } from "@/ui/Button";
import { SelectField, TextField } from "@/ui/Field";
import { useStringRoles } from "../models.queries";
import {
  boxText,
  byName,
  conditionText,
  HOLDS,
  KINDS,
  type Operation,
  type Position,
  parseBox,
  parseCondition,
  type Stated,
  words,
} from "./document";
import { FactsEditor } from "./FactsEditor";
import { Block, Grid, LineField } from "./Parts";
import { PhotoField } from "./PhotoField";
import { Rows } from "./Rows";
import { StatedField } from "./Stated";
import { useWalk } from "./useSurvey";

const STATES = ["present", "free", "not_fitted", "not_visible"] as const;
const STATE_NAMES: Record<string, string> = {
  present: "present",
  free: "free",
  not_fitted: "not fitted by design",
  not_visible: "not visible yet",
};

const YES_NO = [
  { value: "yes", label: "yes" },
  { value: "no", label: "no" },
];

export interface PartStopProps {
  position: Position;
  onChange: (next: Partial<Position>) => void;
  onRemove: () => void;
  /** Begins the step that takes it out, or lays it bare. */
  onStep: (step: Partial<Operation>) => void;
}

/** One part: photo and label first, how it is held and ordered, where it sits, what it takes, what hangs on it. */
export function PartStop({ position, onChange: set, onRemove, onStep }: PartStopProps) {
  const { steps } = useWalk();
  const out = steps.filter((step) => (step.frees ?? []).includes(position.key));
  return (
    <>
      <PhotoField of={position.label} photos={position.photos ?? []} onChange={(photos) => set({ photos })} />
      <p className="mt-2">
        {out.length ? `Comes out by: ${out.map((step) => step.text).join("; ")}` : "No step takes it out yet."}{" "}
        {out.length === 0 && (
          <Button
            onClick={() =>
              onStep({ text: `Take the ${position.label.toLowerCase()} out`, frees: [position.key], seal: null })
            }
          >
            Write how it comes out
          </Button>
        )}
      </p>
      <div className="mt-2">
        <Held position={position} set={set} />
      </div>
      <FactsEditor
        subject="takes"
        title="What the place takes"
        position={position}
        facts={position.takes ?? {}}
        onChange={(takes) => set({ takes })}
        onRead={(read) => set({ takes: read.takes ?? {}, fitted: read.fitted ?? {} })}
      />
      <FactsEditor
        subject="fitted"
        title="What is in it as delivered"
        position={position}
        facts={position.fitted ?? {}}
        onChange={(fitted) => set({ fitted })}
        onRead={(read) => set({ takes: read.takes ?? {}, fitted: read.fitted ?? {} })}
      />
      <Block title="Written on the part" about="only a spare code or the maker's model is ordered">
        <Strings position={position} set={set} />
      </Block>
      <button type="button" className="mt-4 min-h-[24px] text-short underline" onClick={onRemove}>
        Remove {position.label}
      </button>
    </>
  );
}

interface FieldsProps {
  position: Position;
  set: (next: Partial<Position>) => void;
}

function Held({ position, set }: FieldsProps) {
  const { positions } = useWalk();
  return (
    <Grid>
      <TextField label="Name" value={position.label} onChange={(event) => set({ label: event.target.value })} />
      <SelectField
        label="Kind"
        value={position.kind}
        onChange={(event) => set({ kind: KINDS.find((kind) => kind === event.target.value) ?? "other" })}
      >
        {KINDS.map((kind) => (
          <option key={kind} value={kind}>
            {KIND_NAMES[kind]}
          </option>
        ))}
      </SelectField>
      <StatedField
        label="Held"
        of={position.label}
        value={(position.serviceability ?? "unknown") as Stated}
        choices={HOLDS.map((held) => ({ value: held, label: HELD_NAMES[held] ?? held }))}
        unsaid="not known"
        onChange={(held) => set({ serviceability: (held ?? "unknown") as NonNullable<Position["serviceability"]> })}
      />
      <SelectField
        label="Seen"
        value={position.state ?? "present"}
        onChange={(event) => set({ state: STATES.find((state) => state === event.target.value) ?? "present" })}
      >
        {STATES.map((state) => (
          <option key={state} value={state}>
            {STATE_NAMES[state]}
          </option>
        ))}
      </SelectField>
      <SelectField
        label="Part of"
        value={position.part_of ?? ""}
        onChange={(event) => set({ part_of: event.target.value || null })}
      >
        <option value="">nothing</option>
        {positions
          .filter((other) => other.key !== position.key)
          .map((other) => (
            <option key={other.key} value={other.key}>
              {other.label}
            </option>
          ))}
      </SelectField>
      <StatedField
        label="Ordered alone"
        of={position.label}
        value={(position.orderable ?? null) as Stated}
        choices={YES_NO}
        unsaid="not known"
        onChange={(alone) => set({ orderable: alone as NonNullable<Position["orderable"]> | null })}
      />
      <StatedField
        label="Ordered in its place"
        of={position.label}
        unsaid="kit 7"
        value={(position.ordered_unit ?? null) as Stated}
        onChange={(unit) => set({ ordered_unit: unit as NonNullable<Position["ordered_unit"]> | null })}
      />
      <LineField
        label="Place on the plan, mm"
        placeholder="20 16 78x24"
        value={boxText(position.place)}
        onCommit={(text) => set({ place: parseBox(text) ?? null })}
      />
      <TextField
        label="Where its label is"
        value={position.label_place ?? ""}
        onChange={(event) => set({ label_place: event.target.value || null })}
      />
      <LineField
        label="Hangs on the old part"
        value={(position.attached ?? []).join(", ")}
        onCommit={(text) => set({ attached: words(text) })}
      />
      <LineField
        label="Comes with the new one"
        value={(position.included ?? []).join(", ")}
        onCommit={(text) => set({ included: words(text) })}
      />
      <LineField
        label="Only with the option"
        placeholder="battery: 56 Wh"
        value={conditionText(position.when)}
        onCommit={(text) => set({ when: parseCondition(text) ?? null })}
      />
    </Grid>
  );
}

type Role = NonNullable<Position["strings"]>[string];
const ROLES: { value: Role; label: string }[] = [
  { value: "unknown", label: "nobody knows" },
  { value: "spare_code", label: "spare code" },
  { value: "maker_model", label: "maker's model" },
  { value: "drawing", label: "drawing" },
  { value: "revision", label: "revision" },
  { value: "date", label: "date" },
  { value: "cable", label: "cable" },
  { value: "approval", label: "approval" },
];

function Strings({ position, set }: FieldsProps) {
  const rows = Object.entries(position.strings ?? {}).map(([text, role]) => ({ text, role }));
  const open = rows.filter((row) => row.text && row.role === "unknown").map((row) => row.text);
  const proposed = Object.entries(useStringRoles(open).data?.roles ?? {}).flatMap(([text, said]) => {
    const role = ROLES.find((one) => one.value === said && one.value !== "unknown");
    return role && open.includes(text) ? [{ text, role }] : [];
  });
  return (
    <>
      {proposed.map(({ text, role }) => (
        <p key={text}>
          <span className="code">{text}</span> looks like its {role.label}.{" "}
          <Button onClick={() => set({ strings: { ...position.strings, [text]: role.value } })}>
            It is
            <span className="sr-only">
              {" "}
              its {role.label}: {text}
            </span>
          </Button>
        </p>
      ))}
      <Rows
        one="string"
        rows={rows}
        columns={[
          { key: "text", label: "As it is written", as: "text" },
          { key: "role", label: "It is its", as: "choice", choices: ROLES },
        ]}
        name={(row) => row.text ?? ""}
        fresh={() => ({ text: "", role: "unknown" as Role })}
        onChange={(next) => {
          const strings = byName(next.map((row) => [row.text ?? "", row.role]));
          if (strings) set({ strings });
        }}
      />
    </>
  );
}
