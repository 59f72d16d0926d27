import { type KeyboardEvent, type ReactNode, useId, useState } from "react";

export function Block({ title, about, children }: { title: string; about?: string; children: ReactNode }) {
  return (
    <section className="mt-5">
      <h2 className="flex items-baseline gap-3 border-b border-ink pb-0.5 text-[1.15rem]">
        {title}
        {about && <span className="font-sans text-[0.93rem] font-normal text-soft">{about}</span>}
      </h2>
      <div className="pt-2">{children}</div>
    </section>
  );
}

export interface QuickLineProps {
  label: string;
  placeholder: string;
  hint?: ReactNode;
  choices?: { value: string; label: string }[];
  onEnter: (line: string) => boolean;
  onType?: (line: string) => void;
}

/** One line that is read on Enter and ready for the next. */
export function QuickLine({ label, placeholder, hint, choices, onEnter, onType }: QuickLineProps) {
  const [line, setLine] = useState("");
  const list = useId();
  const type = (next: string): void => {
    setLine(next);
    onType?.(next);
  };
  const enter = (event: KeyboardEvent): void => {
    if (event.key !== "Enter") return;
    event.preventDefault();
    if (onEnter(line)) type("");
  };
  return (
    <label className="mt-2 block">
      <span className="block text-[0.93rem] font-semibold">{label}</span>
      <input
        className="w-full rounded-[2px] border border-dashed border-ink bg-leaf px-2 py-1"
        placeholder={placeholder}
        value={line}
        list={choices ? list : undefined}
        onChange={(event) => type(event.target.value)}
        onKeyDown={enter}
      />
      {choices && (
        <datalist id={list}>
          {choices.map((choice) => (
            <option key={choice.value} value={choice.value} label={choice.label} />
          ))}
        </datalist>
      )}
      {hint && <span className="block text-[0.9rem] text-soft">{hint}</span>}
    </label>
  );
}
