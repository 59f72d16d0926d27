import {
  type InputHTMLAttributes,
  type ReactNode,
  type SelectHTMLAttributes,
  type TextareaHTMLAttributes,
  useId,
} from "react";

interface FrameProps {
  label: string;
  /** Whose field it is, for who cannot see where it stands: no two fields are called the same. */
  of?: string | undefined;
  fault?: string | undefined;
  hint?: string | undefined;
}

const BOX = "w-full rounded-[2px] border bg-leaf px-2 py-1 text-ink aria-invalid:border-short border-soft";

function Frame({ label, of, fault, hint, id, children }: FrameProps & { id: string; children: ReactNode }) {
  return (
    <div className="min-w-0">
      <label htmlFor={id} className="mb-0.5 block text-[0.93em] font-semibold">
        {label}
        {of && <span className="sr-only"> of {of}</span>}
      </label>
      {children}
      {hint && !fault && (
        <p id={`${id}-hint`} className="mt-0.5 text-[0.88em] text-soft">
          {hint}
        </p>
      )}
      {fault && (
        <p id={`${id}-fault`} className="mt-0.5 text-[0.93em] font-semibold text-short">
          {fault}
        </p>
      )}
    </div>
  );
}

const described = (id: string, fault?: string, hint?: string) => ({
  "aria-invalid": fault ? true : undefined,
  "aria-describedby": fault ? `${id}-fault` : hint ? `${id}-hint` : undefined,
});

export function TextField({
  label,
  of,
  fault,
  hint,
  className = "",
  ...rest
}: FrameProps & InputHTMLAttributes<HTMLInputElement>) {
  const id = useId();
  return (
    <Frame label={label} of={of} fault={fault} hint={hint} id={id}>
      <input id={id} className={`${BOX} ${className}`} {...described(id, fault, hint)} {...rest} />
    </Frame>
  );
}

export function TextArea({
  label,
  of,
  fault,
  hint,
  className = "",
  ...rest
}: FrameProps & TextareaHTMLAttributes<HTMLTextAreaElement>) {
  const id = useId();
  return (
    <Frame label={label} of={of} fault={fault} hint={hint} id={id}>
      <textarea id={id} className={`${BOX} ${className}`} {...described(id, fault, hint)} {...rest} />
    </Frame>
  );
}

export function SelectField({
  label,
  of,
  fault,
  hint,
  children,
  className = "",
  ...rest
}: FrameProps & SelectHTMLAttributes<HTMLSelectElement>) {
  const id = useId();
  return (
    <Frame label={label} of={of} fault={fault} hint={hint} id={id}>
      <select id={id} className={`${BOX} ${className}`} {...described(id, fault, hint)} {...rest}>
        {children}
      </select>
    </Frame>
  );
}
