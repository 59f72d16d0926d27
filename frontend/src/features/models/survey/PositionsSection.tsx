import { useState } from "react";
import { HELD_NAMES, KIND_NAMES } from "@/lib/words";
import { Block, QuickLine } from "./Block";
import { changed, type Page, type Position, positionFrom, removed } from "./document";
import { PositionEditor } from "./PositionEditor";
import type { SectionProps } from "./section";

/** Every position, walked one by one: a line makes one, opening it asks the rest. */
export function PositionsSection({ page, change, evidence, sibling }: SectionProps & { sibling: Page | null }) {
  const [open, setOpen] = useState<string | null>(null);
  const positions = page.positions ?? [];
  const taken = positions.map((entry) => entry.key);
  const inherited = page.inherits ? (sibling?.positions ?? []).filter((entry) => !taken.includes(entry.key)) : [];
  const add = (line: string): boolean => {
    const made = positionFrom(line, [...taken, ...inherited.map((entry) => entry.key)]);
    if (!made) return false;
    change({ positions: [...positions, made] });
    setOpen(made.key);
    return true;
  };
  const differ = (entry: Position): void => {
    const { key, label, kind, serviceability } = entry;
    change({ positions: [...positions, { key, label, kind, ...(serviceability ? { serviceability } : {}) }] });
    setOpen(key);
  };
  return (
    <Block
      title="Positions"
      about={`${positions.length} written${inherited.length ? `, ${inherited.length} taken over` : ""}`}
    >
      <ul>
        {positions.map((entry, place) => (
          <li key={entry.key} className="border-b border-dotted border-rule">
            <button
              type="button"
              className="flex w-full items-baseline gap-3 py-1 text-left"
              aria-expanded={open === entry.key}
              onClick={() => setOpen(open === entry.key ? null : entry.key)}
            >
              <span className="font-semibold">{entry.label}</span>
              <span className="text-soft">
                {KIND_NAMES[entry.kind]}, {HELD_NAMES[entry.serviceability ?? "unknown"]}
                {entry.place ? "" : ", no place on the plan"}
              </span>
              <span className="code ml-auto text-soft">{entry.key}</span>
            </button>
            {open === entry.key && (
              <PositionEditor
                position={entry}
                others={[...positions, ...inherited].filter((other) => other.key !== entry.key)}
                evidence={evidence}
                onChange={(next) => change({ positions: changed(positions, place, next) })}
                onRemove={() => change({ positions: removed(positions, place) })}
              />
            )}
          </li>
        ))}
        {inherited.map((entry) => (
          <li key={entry.key} className="flex items-baseline gap-3 border-b border-dotted border-rule py-1 text-soft">
            {entry.label}
            <span>taken over from {page.inherits}</span>
            <button type="button" className="ml-auto text-accent underline" onClick={() => differ(entry)}>
              state a difference
            </button>
          </li>
        ))}
      </ul>
      <QuickLine
        label="Next position"
        placeholder="Memory slot A; socketed"
        hint="name; how it is held; kind where the name does not tell. Enter adds it."
        onEnter={add}
      />
    </Block>
  );
}
