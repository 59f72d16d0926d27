import type { ComponentProps, ReactNode } from "react";
import { isProblem, type Problem } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";

export interface AskSheetProps {
  title: string;
  about: string;
  /** The word on the button that does it. */
  label: string;
  sending: { isPending: boolean; error: Error | null };
  /** Fields of the sheet that say themselves what is wrong with them. */
  fields?: readonly string[];
  onSend: () => void;
  onClose: () => void;
  children: (problem: Problem | null) => ReactNode;
}

/** A sheet that asks for one act on stock: its fields, what is wrong in none of them, the act, and the way back. */
export function AskSheet({ title, about, label, sending, fields = FIELDS, onSend, onClose, children }: AskSheetProps) {
  const problem = isProblem(sending.error) ? sending.error : null;
  const elsewhere = problem?.faults.find((fault) => !fields.includes(fault.field));
  return (
    <Sheet open onClose={onClose} title={title} about={about}>
      <form
        className="grid gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          onSend();
        }}
      >
        {children(problem)}
        {problem && (problem.faults.length === 0 || elsewhere) && (
          <p role="alert" className="font-semibold text-short">
            {elsewhere?.message ?? problem.detail}
          </p>
        )}
        <div className="flex gap-3">
          <Button type="submit" look="main" disabled={sending.isPending}>
            {label}
          </Button>
          <Button onClick={onClose}>Leave it as it is</Button>
        </div>
      </form>
    </Sheet>
  );
}

const FIELDS = ["quantity", "reason", "counted", "tag", "to_site", "made_on"];

export interface ValueFieldProps extends Omit<ComponentProps<typeof TextField>, "value" | "onChange"> {
  value: string;
  onValue: (value: string) => void;
}

/** A field that tells its text. */
export const ValueField = ({ onValue, ...props }: ValueFieldProps) => (
  <TextField {...props} onChange={(event) => onValue(event.target.value)} />
);

/** How many parts. */
export const PartsField = (props: Omit<ValueFieldProps, "label"> & { label?: string }) => (
  <ValueField label="Parts" type="number" min={1} {...props} />
);
