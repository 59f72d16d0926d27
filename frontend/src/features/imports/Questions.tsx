import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { figure, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { SelectField, TextField } from "@/ui/Field";
import type { Look, Question, Settled } from "./lists.queries";
import { NEW, NOT_FOR_US } from "./words";

export interface QuestionsProps {
  look: Look;
  settled: Settled;
  onSettle: (change: Partial<Settled>) => void;
}

const SHOWN = 8;

/** What only a person can say of a list: the order of days, the sign before decimals, and names nobody explained. */
export function Questions({ look, settled, onSettle }: QuestionsProps) {
  const needed = look.questions.filter((one) => !one.optional);
  const later = look.questions.filter((one) => one.optional);
  const fields = [...new Set(needed.map((one) => one.field))];
  const answer = (field: string, meanings: Record<string, string>): void =>
    onSettle({ names: { ...settled.names, [field]: { ...settled.names[field], ...meanings } } });
  return (
    <>
      {(look.days.asks || look.amounts.asks || needed.length > 0) && (
        <div className="mt-3 border-l-2 border-thin pl-3">
          <h3 className="font-sans text-[1rem] font-semibold">{plural(look.open, "question")}</h3>
          {look.days.asks && (
            <Either
              name="day-first"
              ask="which stands first?"
              proofs={look.days}
              options={[
                ["the day", settled.day_first === true, () => onSettle({ day_first: true })],
                ["the month", settled.day_first === false, () => onSettle({ day_first: false })],
              ]}
            />
          )}
          {look.amounts.asks && (
            <Either
              name="decimal"
              ask="what stands before the decimals?"
              proofs={look.amounts}
              options={[
                ["a comma", settled.decimal === ",", () => onSettle({ decimal: "," })],
                ["a point", settled.decimal === ".", () => onSettle({ decimal: "." })],
              ]}
            />
          )}
          {fields.map((field) => (
            <OfField
              key={field}
              look={look}
              questions={needed.filter((one) => one.field === field)}
              onAnswer={(meanings) => answer(field, meanings)}
            />
          ))}
        </div>
      )}
      {later.length > 0 && (
        <details className="mt-3 border-b border-rule py-1">
          <summary>What may be said now or later: {plural(later.length, "question")}</summary>
          {later.slice(0, 40).map((one) => (
            <Said
              key={`${one.field} ${one.key}`}
              question={one}
              type="text"
              onAnswer={(value) => answer(one.field, { [one.key]: value })}
            />
          ))}
        </details>
      )}
    </>
  );
}

interface EitherProps {
  name: string;
  ask: string;
  proofs: Look["days"];
  options: [string, boolean, () => void][];
}

function Either({ name, ask, proofs, options }: EitherProps) {
  const open = proofs.open[0] ?? proofs.second[0];
  return (
    <fieldset className="mt-2">
      <legend>
        {open?.text} in line {open?.line}: {ask}
      </legend>
      {options.map(([label, checked, onChoose]) => (
        <label key={label} className="mr-4 inline-flex min-h-[28px] items-center gap-2">
          <input type="radio" name={name} checked={checked} onChange={onChoose} />
          {label}
        </label>
      ))}
      {proofs.first.length > 0 && proofs.second.length > 0 && (
        <p className="text-thin">
          Rows contradict each other: {proofs.first[0]?.text} in line {proofs.first[0]?.line}, {proofs.second[0]?.text}{" "}
          in line {proofs.second[0]?.line}.
        </p>
      )}
    </fieldset>
  );
}

interface OfFieldProps {
  look: Look;
  questions: Question[];
  onAnswer: (meanings: Record<string, string>) => void;
}

function OfField({ look, questions, onAnswer }: OfFieldProps) {
  const field = questions[0]?.field ?? "";
  const box = useRef<HTMLDivElement>(null);
  const byKey = useRef(false);
  const first = questions[0]?.key;
  useEffect(() => {
    // Once one is answered by a key, the next is at hand: a whole review goes by y and n.
    if (byKey.current && first !== undefined) box.current?.querySelector("select")?.focus();
    byKey.current = false;
  }, [first]);
  const review = field === "about";
  const key = (event: KeyboardEvent, one: Question): void => {
    const meaning = event.key === "y" ? one.proposal : event.key === "n" ? NOT_FOR_US : null;
    if (!review || !meaning || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    byKey.current = true;
    onAnswer({ [one.key]: meaning });
  };
  const choices = look.choices.find((one) => one.field === field)?.choices ?? [];
  const many = questions.length > 1 && questions[0]?.asks === "choice";
  return (
    <div className="mt-2" ref={box}>
      {review && (
        <p className="text-soft">
          Which part is it about? Rows that say the same are asked once. On a question <span className="code">y</span>{" "}
          takes what is proposed, <span className="code">n</span> says that no part is meant.
        </p>
      )}
      {questions.slice(0, SHOWN).map((one) => (
        <OneQuestion
          key={one.key}
          question={one}
          choices={choices}
          onKeyDown={(event) => key(event, one)}
          onAnswer={(value) => onAnswer({ [one.key]: value })}
        />
      ))}
      {many && (
        <div className="mt-2">
          <SelectField
            label={`All ${figure(questions.length)} of these at once`}
            value=""
            onChange={(event) => onAnswer(Object.fromEntries(questions.map((one) => [one.key, event.target.value])))}
          >
            <option value="">one by one</option>
            {questions[0] && <Common question={questions[0]} />}
            {field === "form" &&
              choices.map((own) => (
                <option key={own.value} value={own.value}>
                  {own.words}
                </option>
              ))}
          </SelectField>
        </div>
      )}
      {questions.length > SHOWN && (
        <p className="mt-1 text-soft">{figure(questions.length - SHOWN)} more follow once these are answered.</p>
      )}
    </div>
  );
}

interface OneQuestionProps {
  question: Question;
  choices: Choices;
  onKeyDown: (event: KeyboardEvent) => void;
  onAnswer: (value: string) => void;
}

const TYPES: Record<string, "date" | "number" | "text"> = {
  day: "date",
  days: "number",
  amount: "text",
  words: "text",
};

function OneQuestion({ question: one, choices, onKeyDown, onAnswer }: OneQuestionProps) {
  const type = TYPES[one.asks];
  if (type) return <Said question={one} type={type} onAnswer={onAnswer} />;
  const own = one.options.length > 0 ? one.options : choices;
  const perhaps = one.proposal && words(one.proposal, one.options, choices);
  return (
    <div className="mt-2">
      <SelectField label={asked(one)} value="" onKeyDown={onKeyDown} onChange={(event) => onAnswer(event.target.value)}>
        <option value="">{perhaps ? `perhaps ${perhaps}: choose what it is` : "choose what it is"}</option>
        {one.proposal && <option value={one.proposal}>perhaps {perhaps}</option>}
        <Common question={one} />
        {own.map((choice) => (
          <option key={choice.value} value={choice.value}>
            {choice.words}
          </option>
        ))}
      </SelectField>
    </div>
  );
}

/** Answers every name may have: none of ours, or ours and not on record yet. */
function Common({ question }: { question: Question }) {
  if (["form", "depot", "done", "place", "strangers"].includes(question.field)) return null;
  return (
    <>
      <option value={NOT_FOR_US}>
        {question.field === "about" ? "no part of a machine: not an incident" : "none of ours: leave these rows out"}
      </option>
      {question.may_be_new && (
        <option value={NEW}>
          {question.text || question.field === "new" ? "ours, and new: add" : "nobody knows yet"}
        </option>
      )}
    </>
  );
}

interface SaidProps {
  question: Question;
  type: "date" | "number" | "text";
  onAnswer: (value: string) => void;
}

function Said({ question, type, onAnswer }: SaidProps) {
  const [value, setValue] = useState(question.proposal ?? "");
  return (
    <form
      className="mt-2 flex items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (value) onAnswer(value);
      }}
    >
      <div className="grow">
        <TextField
          label={asked(question)}
          type={type}
          min={type === "number" ? 1 : undefined}
          hint={type === "number" && question.proposal ? "The company's middle is proposed." : undefined}
          value={value}
          onChange={(event) => setValue(event.target.value)}
        />
      </div>
      <Button type="submit" disabled={!value} aria-label={`Say so: ${asked(question)}`}>
        Say so
      </Button>
    </form>
  );
}

function asked(one: Question): string {
  if (one.field === "about") return `“${one.text}” (${plural(one.rows, "row")})`;
  const about = one.about.charAt(0).toUpperCase() + one.about.slice(1);
  return `${about}${one.text ? ` “${one.text}”` : ""} (${plural(one.rows, "row")})`;
}

type Choices = { value: string; words: string }[];

function words(meaning: string, ...of: Choices[]): string {
  return of.flat().find((one) => one.value === meaning)?.words ?? meaning;
}
