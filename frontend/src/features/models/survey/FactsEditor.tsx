import { useId, useState } from "react";
import type { Schemas } from "@/api/client";
import { type FactSubject, factName, factsOf, GRADE_NAMES } from "@/lib/words";
import { useLabel } from "../models.queries";
import {
  conditionText,
  type Fact,
  type Facts,
  GRADES,
  type Position,
  parseCondition,
  parseValue,
  valueText,
} from "./document";
import { LineField } from "./Parts";
import { PhotoField } from "./PhotoField";
import { TypedLine } from "./TypedLine";
import { useWalk } from "./useSurvey";

export interface FactsEditorProps {
  title: string;
  facts: Facts;
  /** The position the facts are stated of; of the machine where there is none. */
  position: Position | null;
  subject: FactSubject;
  onChange: (facts: Facts) => void;
  /** What the page says once a line is read: a label may state facts of the place and of the part in it. */
  onRead: (read: Schemas["TypedRead"]) => void;
}

/** Facts with their evidence, those that differ side by side; a fact or a label is added on a line. */
export function FactsEditor({ title, facts, position, subject, onChange, onRead }: FactsEditorProps) {
  const { evidence } = useWalk();
  const known = factsOf(position?.kind ?? "", subject);
  const of = position ? `${position.label}, ${title.toLowerCase()}` : title.toLowerCase();
  const set = (name: string, statements: Fact[]): void => {
    const { [name]: _, ...others } = facts;
    onChange(statements.length ? { ...facts, [name]: statements } : others);
  };
  return (
    <div className="mt-3">
      <table className="w-full text-[0.93rem]">
        <caption className="text-left font-semibold">{title}</caption>
        <tbody>
          {Object.entries(facts).flatMap(([name, statements]) =>
            statements.map((fact, place) => (
              <FactRow
                key={`${name}-${place}-${valueText(fact.value)}-${fact.grade}`}
                label={statements.length > 1 ? `${factName(name)}, ${place + 1}` : factName(name)}
                of={of}
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
      <TypedLine
        label={position ? "Add a fact, or a label as you read it" : "Add a fact"}
        of={of}
        place={position ? ["positions", position.key, subject] : ["facts"]}
        at={(page) => {
          const here = position && page.positions?.find((entry) => entry.key === position.key);
          return here ? { position: here } : { facts: page.facts ?? {} };
        }}
        placeholder={position ? "maximum gb: 32   or   8GB 1Rx8 PC4-3200AA" : "memory maximum gb: 64"}
        choices={known.map((spec) => ({ value: `${spec.name}: `, label: `${spec.label}, ${spec.wanted}` }))}
        {...(position ? { hint: (line: string) => <LabelHint line={line} kind={position.kind} /> } : {})}
        onRead={onRead}
      />
    </div>
  );
}

/** What a label would say, while it is typed. */
function LabelHint({ line, kind }: { line: string; kind: string }) {
  const reading = useLabel(line.includes(":") ? "" : line, kind);
  if (line.includes(":") || !reading.data) return null;
  return (
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
  );
}

interface RowProps {
  label: string;
  of: string;
  fact: Fact;
  values: readonly string[];
  onChange: (next: Fact | null) => void;
  onConflict: () => void;
}

function FactRow({ label, of, fact, values, onChange, onConflict }: RowProps) {
  const choices = useId();
  const [showing, setShowing] = useState(false);
  const [text, setText] = useState(valueText(fact.value));
  const structured = typeof fact.value === "object" && fact.value !== null && !Array.isArray(fact.value);
  const name = `${label} of ${of}`;
  return (
    <tr className="border-b border-dotted border-rule align-baseline">
      <th scope="row" className="py-0.5 pr-2 font-normal">
        {label}
      </th>
      <td className="pr-2">
        <input
          aria-label={name}
          className="min-h-[24px] w-full min-w-[5em] border-b border-soft bg-transparent font-semibold"
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
      <td className="pr-2">
        <select
          aria-label={`Evidence of ${name}`}
          title={fact.source}
          className="min-h-[24px] w-full bg-transparent"
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
        {(showing || fact.when) && (
          <LineField
            label="Only with the option"
            of={name}
            placeholder="battery: 56 Wh"
            value={conditionText(fact.when)}
            onCommit={(condition) => onChange({ ...fact, when: parseCondition(condition) ?? null })}
          />
        )}
        {showing && (
          <PhotoField of={name} photos={fact.photos ?? []} onChange={(photos) => onChange({ ...fact, photos })} />
        )}
      </td>
      <td className="text-right whitespace-nowrap">
        <button
          type="button"
          className="min-h-[24px] text-accent underline"
          aria-expanded={showing}
          onClick={() => setShowing(!showing)}
        >
          more{fact.photos?.length ? ` (${fact.photos.length})` : ""}
          <span className="sr-only"> of {name}</span>
        </button>{" "}
        <button
          type="button"
          className="min-h-[24px] text-accent underline"
          aria-label={`Differs: ${name}`}
          onClick={onConflict}
        >
          differs<span className="sr-only">: {name}</span>
        </button>{" "}
        <button type="button" className="min-h-[24px] text-accent underline" onClick={() => onChange(null)}>
          remove<span className="sr-only"> {name}</span>
        </button>
      </td>
    </tr>
  );
}
