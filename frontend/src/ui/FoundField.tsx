import type { InputHTMLAttributes } from "react";
import { TextField } from "@/ui/Field";

/** Findings of which the day may be unknown: the part failed before somebody looked. */
export const mayBeFound = (finding: string): boolean => finding === "confirmed" || finding === "open";

export interface FoundFieldProps extends InputHTMLAttributes<HTMLInputElement> {
  fault?: string | undefined;
}

/** The last day a part was seen in order, of a failure that a check found. */
export function FoundField(props: FoundFieldProps) {
  return (
    <TextField
      label="Found at a check: last seen in order on"
      type="date"
      hint="Only where nobody noticed the failure and a check found it: it counts as failed between the two days. Leave empty otherwise."
      {...props}
    />
  );
}
