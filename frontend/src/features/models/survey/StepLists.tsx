import { useShorthand } from "../models.queries";
import { type Operation, parsePoints, pointsText, type Stated } from "./document";
import { LineField } from "./Parts";
import { PhotoField } from "./PhotoField";
import { Rows } from "./Rows";
import { StatedField } from "./Stated";
import { TypedLine } from "./TypedLine";

/** What a step undoes and where it is levered: fasteners, plugs, lift points, zones to keep out of. */

type Fasteners = NonNullable<Operation["fasteners"]>[number];
type Plug = NonNullable<Operation["plugs"]>[number];

interface FieldsProps {
  operation: Operation;
  set: (next: Partial<Operation>) => void;
}

const CAPTIVE = [
  { value: "true", label: "captive" },
  { value: "false", label: "loose" },
  { value: "mostly", label: "mostly captive" },
];
const FASTENER_KINDS = ["screw", "jack", "cam", "latch", "clip"].map((kind) => ({ value: kind, label: kind }));

export function FastenersRows({ operation, set }: FieldsProps) {
  return (
    <>
      <TypedLine
        label="Fasteners, in shorthand"
        of="this step"
        place={["operations", operation.id, "fasteners"]}
        at={(page) => ({ operation: page.operations?.find((step) => step.id === operation.id) ?? operation })}
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

const PLUG_KINDS = [
  "slide",
  "press_fit",
  "bail",
  "flip_latch",
  "tab",
  "screwed_plate",
  "antenna",
  "other",
  "unknown",
].map((kind) => ({ value: kind, label: kind === "unknown" ? "nobody looked" : kind.replace("_", " ") }));
const RELEASES = ["hinge", "front", "left", "right", "straight up"].map((side) => ({ value: side, label: side }));

export function Plugs({ operation, set }: FieldsProps) {
  const plugs = operation.plugs ?? [];
  return (
    <>
      <Rows<Plug>
        one="plug"
        rows={plugs}
        columns={[
          { key: "name", label: "Lead", as: "text" },
          { key: "at", label: "Place, mm", as: "point" },
        ]}
        name={(row) => row.name ?? ""}
        fresh={(): Plug => ({ name: "lead", kind: "unknown" })}
        onChange={(next) => set({ plugs: next })}
      />
      {plugs.map((plug, at) => {
        const put = (next: Partial<Plug>): void =>
          set({ plugs: plugs.map((other, place) => (place === at ? { ...other, ...next } : other)) });
        return (
          <div key={at} className="mt-1 grid grid-cols-[repeat(auto-fit,minmax(200px,1fr))] gap-3">
            <StatedField
              label="Plug"
              of={plug.name}
              value={(plug.kind ?? "unknown") as Stated}
              choices={PLUG_KINDS}
              unsaid="not known"
              onChange={(kind) => put({ kind: (kind ?? "unknown") as NonNullable<Plug["kind"]> })}
            />
            <StatedField
              label="Released to"
              of={plug.name}
              value={(plug.release ?? null) as Stated}
              choices={RELEASES}
              unsaid="not known"
              onChange={(release) => put({ release: release as NonNullable<Plug["release"]> | null })}
            />
            <PhotoField of={plug.name} photos={plug.photos ?? []} onChange={(photos) => put({ photos })} />
          </div>
        );
      })}
    </>
  );
}

type KeepOut = NonNullable<Operation["keep_out"]>[number];

export function Levers({ operation, set }: FieldsProps) {
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
        fresh={() => ({ reason: "" }) as KeepOut}
        onChange={(keep_out) => set({ keep_out })}
      />
    </>
  );
}
