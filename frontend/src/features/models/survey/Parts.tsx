import { type ReactNode, useEffect, useId, useState } from "react";
import { TextField } from "@/ui/Field";

/** What the stops of a walk are made of. */

export function Block({ title, about, children }: { title: string; about?: string; children: ReactNode }) {
  return (
    <section className="mt-4">
      <h2 className="flex items-baseline gap-3 border-b border-rule pb-0.5 text-[1.05rem]">
        {title}
        {about && <span className="font-sans text-[0.9rem] font-normal text-soft">{about}</span>}
      </h2>
      <div className="pt-2">{children}</div>
    </section>
  );
}

export const Grid = ({ children }: { children: ReactNode }) => (
  <div className="grid grid-cols-[repeat(auto-fill,minmax(160px,1fr))] gap-3">{children}</div>
);

export const Wide = ({ children }: { children: ReactNode }) => <div className="col-span-full">{children}</div>;

export interface LineFieldProps {
  label: string;
  of?: string | undefined;
  value: string;
  onCommit: (text: string) => void;
  hint?: string;
  placeholder?: string;
  className?: string;
}

/** A field whose text is read when it is left or Enter is pressed, so that half-typed lists are not taken apart. */
export function LineField({ label, of, value, onCommit, hint, placeholder, className }: LineFieldProps) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const commit = (): void => {
    if (text !== value) onCommit(text);
  };
  return (
    <TextField
      label={label}
      of={of}
      value={text}
      {...(hint ? { hint } : {})}
      {...(placeholder ? { placeholder } : {})}
      {...(className ? { className } : {})}
      onChange={(event) => setText(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === "Enter") commit();
      }}
    />
  );
}

export interface Choice {
  value: string;
  label: string;
}

/** Several of what the page has, picked: each as a tag that can be taken away, and a list to add from. */
export function Pick({
  label,
  of,
  value,
  choices,
  onChange,
}: {
  label: string;
  of?: string;
  value: string[];
  choices: Choice[];
  onChange: (next: string[]) => void;
}) {
  const id = useId();
  const name = (key: string): string => choices.find((choice) => choice.value === key)?.label ?? key;
  const left = choices.filter((choice) => !value.includes(choice.value));
  return (
    <div className="min-w-0">
      <label htmlFor={id} className="mb-0.5 block text-[0.93em] font-semibold">
        {label}
        {of && <span className="sr-only"> of {of}</span>}
      </label>
      <div className="flex flex-wrap items-center gap-1">
        {value.map((key) => (
          <button
            key={key}
            type="button"
            className="min-h-[24px] border border-soft bg-pick px-1.5 text-left text-[0.93em]"
            aria-label={`${label}: leave out ${name(key)}`}
            onClick={() => onChange(value.filter((other) => other !== key))}
          >
            {name(key)} <span aria-hidden="true">×</span>
          </button>
        ))}
        <select
          id={id}
          className="max-w-[13em] min-w-0 rounded-[2px] border border-soft bg-leaf px-1 py-1"
          value=""
          onChange={(event) => event.target.value && onChange([...value, event.target.value])}
        >
          <option value="">{value.length ? "and…" : "none"}</option>
          {left.map((choice) => (
            <option key={choice.value} value={choice.value}>
              {choice.label}
            </option>
          ))}
        </select>
      </div>
    </div>
  );
}
