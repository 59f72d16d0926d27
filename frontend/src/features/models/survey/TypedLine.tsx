import { type ReactNode, useId, useState } from "react";
import { isProblem, type Schemas } from "@/api/client";
import { useTypedLine } from "../models.queries";
import type { Choice } from "./Parts";
import { useWalk } from "./useSurvey";

type Read = Schemas["TypedRead"];

export interface TypedLineProps {
  label: string;
  of: string;
  /** Where the line belongs: positions, a key and takes; operations, an id and fasteners; facts. */
  place: [string, ...string[]];
  /** What stands there now. */
  at: Pick<Schemas["TypedIn"], "position" | "operation" | "facts">;
  placeholder: string;
  hint?: (line: string) => ReactNode;
  choices?: Choice[];
  /** Takes in what the page says once the line is read. */
  onRead: (read: Read) => void;
}

/** A line that is read on Enter, or as the page is saved: typed or scanned, nothing that stands here is lost. */
export function TypedLine({ label, of, place, at, placeholder, hint, choices, onRead }: TypedLineProps) {
  const { typed, type, evidence } = useWalk();
  const [told, setTold] = useState<{ wrong: boolean; words: string[] } | null>(null);
  const reading = useTypedLine();
  const where = JSON.stringify(place);
  const line = typed[where] ?? "";
  const id = useId();
  const enter = (text: string): void => {
    if (!text.trim() || reading.isPending) return;
    reading.mutate(
      { line: { place, text }, evidence, ...at },
      {
        onSuccess: (read) => {
          const faults = read.faults.map((fault) => `${fault.message}: ${fault.cure}`);
          if (faults.length === 0) {
            onRead(read);
            type(where, "");
          }
          setTold(faults.length ? { wrong: true, words: faults } : { wrong: false, words: read.asked });
        },
        onError: (error) => setTold({ wrong: true, words: [isProblem(error) ? error.message : "not read: try again"] }),
      },
    );
  };
  return (
    <div className="mt-2">
      <label htmlFor={id} className="block text-[0.93rem] font-semibold">
        {label}
        <span className="sr-only"> of {of}</span>
      </label>
      <input
        id={id}
        className="w-full rounded-[2px] border border-dashed border-ink bg-leaf px-2 py-1"
        placeholder={placeholder}
        value={line}
        list={choices ? `${id}-list` : undefined}
        aria-describedby={`${id}-told`}
        aria-invalid={told?.wrong ? true : undefined}
        onChange={(event) => {
          setTold(null);
          type(where, event.target.value);
        }}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return;
          event.preventDefault();
          enter(event.currentTarget.value);
        }}
      />
      {choices && (
        <datalist id={`${id}-list`}>
          {choices.map((choice) => (
            <option key={choice.value} value={choice.value} label={choice.label} />
          ))}
        </datalist>
      )}
      <div id={`${id}-told`} className="text-[0.9rem] text-soft" aria-live="polite">
        {told?.words.map((word) => (
          <p key={word} className={told.wrong ? "font-semibold text-short" : "text-thin"}>
            {word}
          </p>
        ))}
        {line && !told && hint?.(line)}
      </div>
    </div>
  );
}
