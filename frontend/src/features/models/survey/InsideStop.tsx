import { type FormEvent, useState } from "react";
import { BONES, SKELETONS } from "@/api/declared";
import { HELD_NAMES, KIND_NAMES } from "@/lib/words";
import { Button } from "@/ui/Button";
import { SelectField, TextField } from "@/ui/Field";
import { type Held, HOLDS, KINDS, keyFrom, kindOffered, nextLabel, type Page, type Position } from "./document";
import { Block } from "./Parts";
import { TakenOver } from "./TakenOver";
import { useWalk } from "./useSurvey";

/** What is inside, hinge to front: the parts machines of the form have are offered, others are named. */
export function InsideStop({ sibling }: { sibling: Page | null }) {
  const { page, change, positions } = useWalk();
  const own = page.positions ?? [];
  const labels = positions.map((part) => part.label);
  const bones = SKELETONS[page.form].flatMap((label) => BONES.filter((bone) => bone.label === label));
  const add = (label: string, kind: Position["kind"], serviceability: Held = "unknown"): void => {
    const key = keyFrom(
      label,
      positions.map((part) => part.key),
    );
    change({ positions: [...own, { key, label, kind, serviceability }] });
  };
  return (
    <>
      <p className="text-soft">
        Press what this machine has, from the hinge to the front; the walk gets a stop for each.
      </p>
      <ul className="mt-2 flex flex-wrap gap-2">
        {bones.map((bone) => {
          const there = positions.filter((part) => part.kind === bone.kind).length;
          const label = bone.several ? nextLabel(bone.label, labels) : bone.label;
          return (
            <li key={bone.label}>
              <button
                type="button"
                className="min-h-[28px] border border-soft bg-leaf px-2 py-0.5 enabled:hover:bg-pick disabled:text-soft"
                disabled={!bone.several && there > 0}
                onClick={() => add(label, bone.kind)}
              >
                {there ? `${bone.label}: ${there}` : bone.label}
                {bone.several && <span className="text-accent"> + {there ? "one more" : "one"}</span>}
              </button>
            </li>
          );
        })}
      </ul>
      <Block title="Another part">
        <OtherPart onAdd={add} taken={labels} />
      </Block>
      {page.inherits && sibling && <TakenOver sibling={sibling} />}
    </>
  );
}

/** A part by name: its kind is offered from the name, and chosen by whoever types it. */
function OtherPart({
  onAdd,
  taken,
}: {
  onAdd: (label: string, kind: Position["kind"], held: Held) => void;
  taken: string[];
}) {
  const [label, setLabel] = useState("");
  const [chosen, setChosen] = useState<Position["kind"] | "">("");
  const [held, setHeld] = useState<Held>("unknown");
  const offered = kindOffered(label);
  const kind = chosen || offered || "";
  const add = (event: FormEvent): void => {
    event.preventDefault();
    if (!label.trim() || !kind) return;
    onAdd(label.trim(), kind, held);
    setLabel("");
    setChosen("");
    setHeld("unknown");
  };
  return (
    <form className="grid grid-cols-[1fr_170px_150px_auto] items-end gap-3 max-[900px]:grid-cols-1" onSubmit={add}>
      <TextField
        label="Name of the part"
        placeholder="Fan, left"
        value={label}
        fault={taken.includes(label.trim()) ? "a part is called so already" : undefined}
        onChange={(event) => setLabel(event.target.value)}
      />
      <SelectField
        label={offered && !chosen ? "Kind, as its name says" : "Kind of part"}
        value={kind}
        onChange={(event) => setChosen(KINDS.find((one) => one === event.target.value) ?? "")}
      >
        <option value="">choose a kind</option>
        {KINDS.map((one) => (
          <option key={one} value={one}>
            {KIND_NAMES[one]}
          </option>
        ))}
      </SelectField>
      <SelectField
        label="How it is held"
        value={held}
        onChange={(event) => setHeld(HOLDS.find((one) => one === event.target.value) ?? "unknown")}
      >
        {HOLDS.map((one) => (
          <option key={one} value={one}>
            {HELD_NAMES[one]}
          </option>
        ))}
      </SelectField>
      <Button type="submit" disabled={!label.trim() || !kind}>
        Add it
      </Button>
    </form>
  );
}
