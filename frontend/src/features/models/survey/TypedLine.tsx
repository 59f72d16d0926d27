import { type ReactNode, useEffect, useId, useRef, useState } from "react";
import { isProblem, type Schemas } from "@/api/client";
import { useTypedLine } from "../models.queries";
import type { Page } from "./document";
import type { Choice } from "./Parts";
import { useWalk } from "./useSurvey";

type Read = Schemas["TypedRead"];

export interface TypedLineProps {
  label: string;
  of: string;
  /** Where the line belongs: positions, a key and takes; operations, an id and fasteners; facts. */
  place: [string, ...string[]];
  /** What stands there on the page as it is when the line is read. */
  at: (page: Page) => Pick<Schemas["TypedIn"], "position" | "operation" | "facts">;
  placeholder: string;
  hint?: (line: string) => ReactNode;
  choices?: Choice[];
  /** Takes in what the page says once the line is read. */
  onRead: (read: Read) => void;
}

/**
 * A line that is read on Enter, or as the page is saved. Enter frees the line at once, for a scanner does not wait; lines are read one
 * after another, each into the page as the one before left it, and one that cannot be read stays below, to be corrected.
 */
export function TypedLine({ label, of, place, at, placeholder, hint, choices, onRead }: TypedLineProps) {
  const { typed, type, evidence, now } = useWalk();
  const [told, setTold] = useState<{ wrong: boolean; words: string[] } | null>(null);
  const { mutateAsync } = useTypedLine();
  const waiting = useRef<Promise<void>>(Promise.resolve());
  const sent = useRef(0);
  const where = JSON.stringify(place);
  const line = typed[where] ?? "";
  const id = useId();
  const standing = useRef(line);
  useEffect(() => {
    standing.current = line;
  }, [line]);
  // Beside this line: those that are being read, and those that could not be while the next was typed.
  const others = Object.entries(typed).filter(([key]) => key.startsWith(`${where}\n`));
  const correct = (flight: string, text: string): void => {
    type(flight, "");
    type(where, text);
  };
  const read = async (text: string, flight: string): Promise<void> => {
    let words: string[];
    try {
      const found = await mutateAsync({ line: { place, text }, evidence, ...at(now()) });
      words = found.faults.map((fault) => `${fault.message}: ${fault.cure}`);
      if (words.length === 0) {
        onRead(found);
        type(flight, "");
        setTold((before) => (before?.wrong && standing.current ? before : { wrong: false, words: found.asked }));
        return;
      }
    } catch (error) {
      words = [isProblem(error) ? error.message : "not read: try again"];
    }
    setTold({ wrong: true, words });
    if (!standing.current) correct(flight, text);
  };
  const enter = (text: string): void => {
    if (!text.trim()) return;
    // While it is being read it stays among the typed lines: who saves meanwhile saves it too.
    const flight = `${where}\n${sent.current++}`;
    type(flight, text);
    type(where, "");
    waiting.current = waiting.current.then(() => read(text, flight));
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
      {others.map(([flight, text]) => (
        <p key={flight} className="mt-0.5 text-[0.93rem]">
          Not read: <span className="code">{text}</span>{" "}
          <button
            type="button"
            className="min-h-[24px] text-accent underline disabled:text-soft"
            disabled={line !== ""}
            onClick={() => correct(flight, text)}
          >
            correct<span className="sr-only"> {text}</span>
          </button>{" "}
          <button type="button" className="min-h-[24px] text-short underline" onClick={() => type(flight, "")}>
            leave out<span className="sr-only"> {text}</span>
          </button>
        </p>
      ))}
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
