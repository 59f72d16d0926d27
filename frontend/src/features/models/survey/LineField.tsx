import { useEffect, useState } from "react";
import { TextField } from "@/ui/Field";

export interface LineFieldProps {
  label: string;
  value: string;
  onCommit: (text: string) => void;
  hint?: string;
  placeholder?: string;
  className?: string;
}

/** A field whose text is read when it is left or Enter is pressed, so that half-typed lists are not taken apart. */
export function LineField({ label, value, onCommit, hint, placeholder, className }: LineFieldProps) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const commit = (): void => {
    if (text !== value) onCommit(text);
  };
  return (
    <TextField
      label={label}
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
