import { type FormEvent, useState } from "react";
import { Button } from "@/ui/Button";
import { SelectField, TextField } from "@/ui/Field";
import type { Operation } from "./document";
import { useWalk } from "./useSurvey";
import { layerAbove, type Stop } from "./walk";

const MARKS = { step: "—", part: "·", machine: "", inside: "", opening: "", closing: "" } as const;

/** The stops of the walk, what lies beneath a step set in under it, each with how much is open there. */
export function WalkRail({
  stops,
  at,
  open,
}: {
  stops: Stop[];
  at: Stop;
  open: Map<string, { wrong: number; open: number }>;
}) {
  const { go } = useWalk();
  return (
    <nav aria-label="Stops of the walk">
      <ol className="text-[0.95rem]">
        {stops.map((stop) => {
          const left = open.get(stop.id);
          return (
            <li key={stop.id} style={{ paddingLeft: `${stop.depth * 12}px` }}>
              <button
                type="button"
                aria-current={stop.id === at.id ? "step" : undefined}
                className={`flex min-h-[26px] w-full items-baseline gap-1.5 py-0.5 pr-1 text-left ${
                  stop.id === at.id ? "border-l-4 border-accent bg-pick pl-1 font-semibold" : "pl-2"
                }`}
                onClick={() => go(stop.id)}
              >
                {MARKS[stop.what] && (
                  <span aria-hidden="true" className="text-soft">
                    {MARKS[stop.what]}
                  </span>
                )}
                <span className="min-w-0 flex-1 truncate" title={stop.label}>
                  {stop.label}
                </span>
                {left && (
                  <span className={`text-[0.86rem] ${left.wrong ? "font-semibold text-short" : "text-thin"}`}>
                    {left.wrong ? `${left.wrong} wrong` : `${left.open} open`}
                  </span>
                )}
              </button>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}

/** A new step: what it does, the layer it lies beneath, and what it takes out. The rest is asked at its stop. */
export function NextStep({ at, onAdd }: { at: Operation | undefined; onAdd: (step: Partial<Operation>) => void }) {
  const { steps } = useWalk();
  const [text, setText] = useState("");
  const [picked, setPicked] = useState<string | null>(null);
  const beneath = picked ?? layerAbove(steps, at) ?? "";
  const add = (event: FormEvent): void => {
    event.preventDefault();
    if (!text.trim()) return;
    onAdd({ text: text.trim(), seal: null, ...(beneath ? { needs: [beneath] } : {}) });
    setText("");
    setPicked(null);
  };
  return (
    <form className="mt-3 border-t border-rule pt-2" onSubmit={add}>
      <TextField
        label="Next step"
        placeholder="Lift the base cover"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <SelectField label="It lies beneath" value={beneath} onChange={(event) => setPicked(event.target.value)}>
        <option value="">nothing</option>
        {steps.map((step) => (
          <option key={step.id} value={step.id}>
            {step.layer ?? step.text}
          </option>
        ))}
      </SelectField>
      <Button type="submit" className="mt-1" disabled={!text.trim()}>
        Add the step
      </Button>
    </form>
  );
}
