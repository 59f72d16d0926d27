import { useId } from "react";
import { GRADE_NAMES } from "@/lib/words";
import { type Fact, GRADES, holds, type Stated } from "./document";
import type { Choice } from "./Parts";
import { useWalk } from "./useSurvey";

const BOX = "w-full min-w-0 rounded-[2px] border border-soft bg-leaf px-1 py-1";

export interface StatedProps {
  label: string;
  of: string;
  value: Stated;
  /** What it can be; words where there are none. */
  choices?: Choice[];
  /** What stands where nothing is said. */
  unsaid: string;
  onChange: (next: Stated) => void;
}

/** An entry said under the page's own evidence, or by statements with evidence of their own, side by side where they differ. */
export function StatedField({ label, of, value, choices, unsaid, onChange }: StatedProps) {
  const { evidence } = useWalk();
  const id = useId();
  const graded = Array.isArray(value);
  const rows: Fact[] = graded ? value : [{ value: value ?? null, ...evidence }];
  const set = (at: number, next: Fact): void => onChange(rows.map((row, place) => (place === at ? next : row)));
  return (
    <div className="min-w-0">
      <label htmlFor={`${id}-0`} className="mb-0.5 block text-[0.93em] font-semibold">
        {label}
        <span className="sr-only"> of {of}</span>
      </label>
      {rows.map((row, at) => (
        <div key={at} className="mb-1 grid">
          <Value
            id={`${id}-${at}`}
            name={at ? `${label} of ${of}, ${at + 1}` : undefined}
            value={row.value}
            choices={choices}
            unsaid={unsaid}
            onChange={(said) => (graded ? set(at, { ...row, value: said }) : onChange(said))}
          />
          <select
            aria-label={`How is that known: ${label} of ${of}${at ? `, ${at + 1}` : ""}`}
            title={graded ? row.source : "the page's own evidence holds"}
            className="min-h-[24px] w-full min-w-0 bg-transparent text-[0.9em] text-soft"
            value={graded ? row.grade : ""}
            onChange={(event) => {
              const grade = GRADES.find((one) => one === event.target.value);
              if (grade) set(at, { ...row, grade });
              else if (event.target.value === "remove")
                onChange(plainOf(rows.filter((_, place) => place !== at)) ?? null);
              else onChange(row.value as Stated);
            }}
          >
            {rows.length === 1 && <option value="">known as the rest of the page</option>}
            {rows.length > 1 && <option value="remove">leave out</option>}
            {GRADES.map((grade) => (
              <option key={grade} value={grade}>
                {GRADE_NAMES[grade]}
              </option>
            ))}
          </select>
        </div>
      ))}
      {holds(value) !== null && (
        <button
          type="button"
          className="min-h-[24px] text-[0.9em] text-accent underline"
          aria-label={`Differs: ${label} of ${of}`}
          onClick={() => onChange([...rows, { value: null, ...evidence, grade: "told" }])}
        >
          differs
        </button>
      )}
    </div>
  );
}

/** Statements as they are kept: none is nothing said. */
const plainOf = (rows: Fact[]): Stated => (rows.length ? rows : null);

interface ValueProps {
  id: string;
  name: string | undefined;
  value: Fact["value"];
  choices: Choice[] | undefined;
  unsaid: string;
  onChange: (said: string | boolean | null) => void;
}

function Value({ id, name, value, choices, unsaid, onChange }: ValueProps) {
  if (!choices) {
    return (
      <input
        id={id}
        aria-label={name}
        className={BOX}
        placeholder={unsaid}
        value={typeof value === "string" ? value : ""}
        onChange={(event) => onChange(event.target.value || null)}
      />
    );
  }
  const said = value === true ? "yes" : value === false ? "no" : value === null ? "" : String(value);
  return (
    <select
      id={id}
      aria-label={name}
      className={BOX}
      value={said}
      onChange={(event) => onChange(meant(event.target.value))}
    >
      {(said === "" || !choices.some((choice) => choice.value === "unknown")) && <option value="">{unsaid}</option>}
      {choices.map((choice) => (
        <option key={choice.value} value={choice.value}>
          {choice.label}
        </option>
      ))}
    </select>
  );
}

const meant = (text: string): string | boolean | null => (text === "yes" ? true : text === "no" ? false : text || null);
