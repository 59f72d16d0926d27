import { useState } from "react";
import { useShorthand } from "../models.queries";
import { Block, QuickLine } from "./Block";
import { changed, type Operation, operationFrom, type Page, removed } from "./document";
import { fastenersFrom, OperationEditor } from "./OperationEditor";
import type { SectionProps } from "./section";

/** The steps in order: a line makes one, its fasteners read as they are typed. */
export function OperationsSection({ page, change, sibling }: SectionProps & { sibling: Page | null }) {
  const [open, setOpen] = useState<string | null>(null);
  const [typed, setTyped] = useState("");
  const steps = page.operations ?? [];
  const taken = steps.map((entry) => entry.id);
  const inherited = page.inherits ? (sibling?.operations ?? []).filter((entry) => !taken.includes(entry.id)) : [];
  const keys = [...(page.positions ?? []), ...(page.inherits ? (sibling?.positions ?? []) : [])].map(
    (entry) => entry.key,
  );
  const draft = operationFrom(typed, []);
  const understood = useShorthand(draft?.fasteners ?? "");
  const add = (line: string): boolean => {
    const made = operationFrom(line, [...taken, ...inherited.map((entry) => entry.id)]);
    if (!made) return false;
    const fasteners = made.fasteners ? fastenersFrom(understood.data?.groups ?? []) : [];
    const before = steps.at(-1);
    const step: Operation = {
      ...made.operation,
      ...(fasteners.length ? { fasteners } : {}),
      ...(before ? { needs: [before.id] } : {}),
    };
    change({ operations: [...steps, step] });
    setOpen(step.id);
    return true;
  };
  const differ = (entry: Operation): void => {
    change({ operations: [...steps, { id: entry.id, text: entry.text }] });
    setOpen(entry.id);
  };
  return (
    <Block title="Steps" about={`${steps.length} written${inherited.length ? `, ${inherited.length} taken over` : ""}`}>
      <ol>
        {steps.map((entry, place) => (
          <li key={entry.id} className="border-b border-dotted border-rule">
            <button
              type="button"
              className="flex w-full items-baseline gap-3 py-1 text-left"
              aria-expanded={open === entry.id}
              onClick={() => setOpen(open === entry.id ? null : entry.id)}
            >
              <span className="w-5 text-right text-soft">{place + 1}</span>
              <span className="flex-1 font-semibold">{entry.text}</span>
              <span className="code text-soft">{entry.id}</span>
            </button>
            {open === entry.id && (
              <OperationEditor
                operation={entry}
                keys={keys}
                steps={[...taken, ...inherited.map((other) => other.id)]}
                onChange={(next) => change({ operations: changed(steps, place, next) })}
                onRemove={() => change({ operations: removed(steps, place) })}
              />
            )}
          </li>
        ))}
        {inherited.map((entry) => (
          <li key={entry.id} className="flex items-baseline gap-3 border-b border-dotted border-rule py-1 text-soft">
            <span className="flex-1">{entry.text}</span>
            <button type="button" className="text-accent underline" onClick={() => differ(entry)}>
              state a difference
            </button>
          </li>
        ))}
      </ol>
      <QuickLine
        label="Next step"
        placeholder="Lift the base cover; PH1; 2 to 5 min; 6x PH1 M2.5x4 captive, 1 hidden under label"
        onType={setTyped}
        onEnter={add}
        hint={
          draft?.fasteners && understood.data ? (
            <>
              understood {understood.data.total} fasteners:{" "}
              {understood.data.groups.map((group) => group.words).join("; ")}
              {understood.data.unread.length > 0 && (
                <span className="block text-thin">not understood: {understood.data.unread.join(", ")}</span>
              )}
            </>
          ) : (
            "what to do; tool; minutes; fasteners. Enter adds it after the step before."
          )
        }
      />
    </Block>
  );
}
