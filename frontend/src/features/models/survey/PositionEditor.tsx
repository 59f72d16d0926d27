import { HELD_NAMES, KIND_NAMES } from "@/lib/words";
import { SelectField, TextField } from "@/ui/Field";
import { type Evidence, HOLDS, KINDS, type Position, withReading, words } from "./document";
import { FactsEditor } from "./FactsEditor";
import { LineField } from "./LineField";
import { PhotoField } from "./PhotoField";

export interface PositionEditorProps {
  position: Position;
  others: Position[];
  evidence: Evidence;
  onChange: (next: Position) => void;
  onRemove: () => void;
}

const STATES = ["present", "free", "not_fitted", "not_visible"] as const;
const STATE_NAMES: Record<string, string> = {
  present: "present",
  free: "free",
  not_fitted: "not fitted by design",
  not_visible: "not visible yet",
};

/** One position: how it is held and ordered, where it sits, what it takes, what hangs on it. */
export function PositionEditor({ position, others, evidence, onChange, onRemove }: PositionEditorProps) {
  const set = (next: Partial<Position>): void => onChange({ ...position, ...next });
  const place = position.place;
  const box = (text: string): void => {
    const [x, y, width, depth] = text.split(/[\s,]+/).map(Number.parseFloat);
    const whole = x !== undefined && y !== undefined && width && depth;
    set({ place: whole ? { x_mm: x, y_mm: y, width_mm: width, depth_mm: depth } : null });
  };
  return (
    <div className="border-l-4 border-accent bg-pick/50 p-3">
      <div className="grid grid-cols-4 gap-3">
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
        <SelectField
          label="Held"
          value={position.serviceability ?? "unknown"}
          onChange={(event) => set({ serviceability: HOLDS.find((held) => held === event.target.value) ?? "unknown" })}
        >
          {HOLDS.map((held) => (
            <option key={held} value={held}>
              {HELD_NAMES[held]}
            </option>
          ))}
        </SelectField>
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
          {others.map((other) => (
            <option key={other.key} value={other.key}>
              {other.label}
            </option>
          ))}
        </SelectField>
        <SelectField
          label="Ordered alone"
          value={position.orderable === true ? "yes" : position.orderable === false ? "no" : ""}
          onChange={(event) => set({ orderable: event.target.value === "" ? null : event.target.value === "yes" })}
        >
          <option value="">not known</option>
          <option value="yes">yes</option>
          <option value="no">no</option>
        </SelectField>
        <LineField
          label="Place, mm"
          hint="x y width depth"
          value={place ? `${place.x_mm} ${place.y_mm} ${place.width_mm} ${place.depth_mm}` : ""}
          onCommit={box}
        />
        <TextField
          label="Its label is"
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
          hint="name: value"
          value={Object.entries(position.when ?? {})
            .map(([name, value]) => `${name}: ${value}`)
            .join(", ")}
          onCommit={(text) => set({ when: conditionFrom(text) })}
        />
        <LineField
          label="Written on the part"
          hint="text: role, next … (maker model, spare code, drawing, revision, date, cable)"
          value={Object.entries(position.strings ?? {})
            .map(([text, role]) => `${text}: ${role.replace("_", " ")}`)
            .join(", ")}
          onCommit={(text) => set({ strings: stringsFrom(text) })}
        />
        <PhotoField photos={position.photos ?? []} onChange={(photos) => set({ photos })} />
      </div>
      <FactsEditor
        subject="takes"
        title="Takes"
        kind={position.kind}
        facts={position.takes ?? {}}
        evidence={evidence}
        onChange={(takes) => set({ takes })}
        onRead={(read) => onChange(withReading(position, "takes", read))}
      />
      <FactsEditor
        subject="fitted"
        title="As delivered"
        kind={position.kind}
        facts={position.fitted ?? {}}
        evidence={evidence}
        onChange={(fitted) => set({ fitted })}
        onRead={(read) => onChange(withReading(position, "fitted", read))}
      />
      <button type="button" className="mt-2 text-short underline" onClick={onRemove}>
        Remove {position.label}
      </button>
    </div>
  );
}

export function conditionFrom(text: string): Record<string, string> | null {
  const pairs = words(text).map((item) => item.split(":").map((part) => part.trim()));
  const found = Object.fromEntries(
    pairs.filter((pair) => pair[0] && pair[1]).map((pair) => [pair[0] ?? "", pair[1] ?? ""]),
  );
  return Object.keys(found).length ? found : null;
}

type Role = NonNullable<Position["strings"]>[string];
const ROLES: Role[] = ["maker_model", "spare_code", "drawing", "revision", "date", "cable", "unknown"];

/** "LD-80256: maker model, REV 03: revision": strings with their roles; a role nobody knows is unknown. */
export function stringsFrom(text: string): Record<string, Role> {
  const found: Record<string, Role> = {};
  for (const item of words(text)) {
    const [written = "", said = ""] = item.split(":").map((part) => part.trim());
    if (written) found[written] = ROLES.find((role) => role === said.replace(" ", "_")) ?? "unknown";
  }
  return found;
}
