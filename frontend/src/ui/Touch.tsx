import type { ButtonHTMLAttributes, ReactNode } from "react";

/** Controls for the bench: large enough for a gloved finger at arm's length. */
type Look = "main" | "plain" | "danger";

const LOOKS: Record<Look, string> = {
  main: "bg-accent text-leaf border-accent",
  plain: "bg-leaf text-ink border-ink hover:bg-pick",
  danger: "bg-leaf text-short border-short hover:bg-pick",
};

export function TouchButton({
  look = "plain",
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look }) {
  return (
    <button
      type="button"
      className={`min-h-[56px] rounded-[4px] border-2 px-5 text-[1.3rem] font-semibold disabled:cursor-not-allowed disabled:opacity-50 ${LOOKS[look]} ${className}`}
      {...rest}
    />
  );
}

export interface TouchToggleProps {
  on: boolean;
  onChange: (on: boolean) => void;
  children: ReactNode;
}

/** A statement that is confirmed with a tap, and taken back with another. */
export function TouchToggle({ on, onChange, children }: TouchToggleProps) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={() => onChange(!on)}
      className={`flex min-h-[56px] w-full items-center gap-3 rounded-[4px] border-2 px-4 py-2 text-left ${
        on ? "border-covered bg-pick" : "border-soft bg-leaf"
      }`}
    >
      <span
        aria-hidden
        className={`grid size-7 shrink-0 place-items-center rounded-[3px] border-2 font-semibold ${
          on ? "border-covered text-covered" : "border-soft text-transparent"
        }`}
      >
        ✓
      </span>
      <span>{children}</span>
    </button>
  );
}

export interface TouchChoiceProps {
  label: string;
  value: string | null;
  choices: readonly (readonly [string, string])[];
  onChange: (value: string) => void;
}

/** One of a few, side by side. */
export function TouchChoice({ label, value, choices, onChange }: TouchChoiceProps) {
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">{label}</legend>
      <div className="flex flex-wrap gap-2">
        {choices.map(([key, words]) => (
          <button
            key={key}
            type="button"
            aria-pressed={value === key}
            onClick={() => onChange(key)}
            className={`min-h-[56px] min-w-[56px] rounded-[4px] border-2 px-4 ${
              value === key ? "border-accent bg-pick font-semibold" : "border-soft bg-leaf"
            }`}
          >
            {words}
          </button>
        ))}
      </div>
    </fieldset>
  );
}
