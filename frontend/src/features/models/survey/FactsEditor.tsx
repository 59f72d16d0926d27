import { useId, useState } from "react";
import { type FactSubject, factName, factsOf, GRADE_NAMES } from "@/lib/words";
import { useLabel } from "../models.queries";
import { QuickLine } from "./Block";
import { type Evidence, type Fact, type Facts, GRADES, parseValue, valueText } from "./document";
import { PhotoField } from "./PhotoField";

export interface FactsEditorProps {
  title: string;
  facts: Facts;
  evidence: Evidence;
  kind: string;
  subject: FactSubject;
  onChange: (facts: Facts) => void;
  /** A label that was read: it may state facts of the place and of the part in it. */
  onRead: (facts: Facts) => void;
}

/** Facts of a position with their evidence; a label typed in is read as it is typed, and its facts added on Enter. */
export function FactsEditor({ title, facts, evidence, kind, subject, onChange, onRead }: FactsEditorProps) {
  const [typed, setTyped] = useState("");
  const reading = useLabel(typed, kind);
  const known = factsOf(kind, subject);
  const set = (name: string, statements: Fact[]): void => {
    const next = { ...facts };
    if (statements.length) next[name] = statements;
    else delete next[name];
    onChange(next);
  };
  const addLine = (line: string): boolean => {
    const [name = "", ...rest] = line.split(":");
    if (rest.length && name.trim()) {
      set(name.trim().toLowerCase().replaceAll(" ", "_"), [{ value: parseValue(rest.join(":")), ...evidence }]);
      return true;
    }
    const read = reading.data?.facts ?? {};
    const found = Object.entries(read).filter(([key]) => !["series", "agreement"].includes(key));
    if (found.length === 0 || typed !== line) return false;
    onRead(
      Object.fromEntries(
        found.map(([key, value]) => [key, [{ value: scalar(value), ...evidence, grade: "label" as const }]]),
      ),
    );
    return true;
  };
  return (
    <div className="mt-2">
      <table className="w-full text-[0.93rem]">
        <caption className="text-left font-semibold">{title}</caption>
        <tbody>
          {Object.entries(facts).flatMap(([name, statements]) =>
            statements.map((fact, place) => (
              <FactRow
                key={`${name}-${place}-${valueText(fact.value)}-${fact.grade}`}
                name={name}
                fact={fact}
                values={known.find((spec) => spec.name === name)?.values ?? []}
                onChange={(next) =>
                  set(
                    name,
                    next
                      ? statements.map((item, at) => (at === place ? next : item))
                      : statements.filter((_, at) => at !== place),
                  )
                }
                onConflict={() => set(name, [...statements, { value: null, ...evidence }])}
              />
            )),
          )}
        </tbody>
      </table>
      <QuickLine
        label="Add a fact, or a label as you read it"
        placeholder="maximum gb: 32   or   8GB 1Rx8 PC4-3200AA"
        choices={known.map((spec) => ({ value: `${spec.name}: `, label: `${spec.label}, ${spec.wanted}` }))}
        onEnter={addLine}
        onType={setTyped}
        hint={
          typed && !typed.includes(":") && reading.data ? (
            <>
              understood {reading.data.kind ?? "nothing"}:{" "}
              {Object.entries(reading.data.facts)
                .map(([key, value]) => `${factName(key)} ${String(value)}`)
                .join(", ")}
              {reading.data.flags.map((flag) => (
                <span key={flag} className="block text-thin">
                  {flag}
                </span>
              ))}
            </>
          ) : null
        }
      />
    </div>
  );
}

/** A reading's value as a fact holds it. */
function scalar(value: unknown): Fact["value"] {
  return typeof value === "string" || typeof value === "number" || typeof value === "boolean" ? value : null;
}

interface RowProps {
  name: string;
  fact: Fact;
  values: readonly string[];
  onChange: (next: Fact | null) => void;
  onConflict: () => void;
}

function FactRow({ name, fact, values, onChange, onConflict }: RowProps) {
  const label = factName(name);
  const choices = useId();
  const [showing, setShowing] = useState(false);
  const [text, setText] = useState(valueText(fact.value));
  const structured = typeof fact.value === "object" && fact.value !== null && !Array.isArray(fact.value);
  return (
    <tr className="border-b border-dotted border-rule">
      <th scope="row" className="py-0.5 pr-2 font-normal">
        {label}
      </th>
      <td className="pr-2">
        <input
          aria-label={label}
          className="w-full border-b border-soft bg-transparent font-semibold"
          placeholder="not known"
          list={values.length ? choices : undefined}
          value={text}
          readOnly={structured}
          onChange={(event) => setText(event.target.value)}
          onBlur={() => !structured && text !== valueText(fact.value) && onChange({ ...fact, value: parseValue(text) })}
        />
        {values.length > 0 && (
          <datalist id={choices}>
            {values.map((value) => (
              <option key={value} value={value} />
            ))}
          </datalist>
        )}
      </td>
      <td className="w-[150px] pr-2">
        <select
          aria-label={`Evidence of ${label}`}
          className="w-full bg-transparent"
          value={fact.grade}
          onChange={(event) =>
            onChange({ ...fact, grade: GRADES.find((grade) => grade === event.target.value) ?? "told" })
          }
        >
          {GRADES.map((grade) => (
            <option key={grade} value={grade}>
              {GRADE_NAMES[grade]}
            </option>
          ))}
        </select>
      </td>
      <td className="w-[150px] truncate pr-2 text-soft">
        {showing ? (
          <PhotoField of={label} photos={fact.photos ?? []} onChange={(photos) => onChange({ ...fact, photos })} />
        ) : (
          fact.source
        )}
      </td>
      <td className="w-[150px] text-right whitespace-nowrap">
        <button
          type="button"
          className="text-accent underline"
          aria-expanded={showing}
          aria-label={`Photos of ${label}`}
          onClick={() => setShowing(!showing)}
        >
          photo{fact.photos?.length ? ` (${fact.photos.length})` : ""}
        </button>{" "}
        <button type="button" className="text-accent underline" onClick={onConflict}>
          differs
        </button>{" "}
        <button
          type="button"
          className="text-accent underline"
          aria-label={`Remove ${label}`}
          onClick={() => onChange(null)}
        >
          remove
        </button>
      </td>
    </tr>
  );
}
