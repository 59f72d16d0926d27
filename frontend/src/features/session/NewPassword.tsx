import type { UseFormRegisterReturn } from "react-hook-form";
import type { Problem } from "@/api/client";
import { TextField } from "@/ui/Field";

interface NewPasswordProps {
  label: string;
  fault: string | undefined;
  /** What is said where the two differ. */
  differ: string | undefined;
  first: UseFormRegisterReturn;
  second: UseFormRegisterReturn;
  problem: Problem | null;
  /** Whether typing begins here. */
  begins?: boolean;
}

/** A password that is chosen, typed twice; and what was wrong with it that belongs to no field. */
export const NewPassword = ({ label, fault, differ, first, second, problem, begins = false }: NewPasswordProps) => (
  <>
    <TextField
      label={label}
      type="password"
      hint="Twelve characters or more."
      autoComplete="new-password"
      autoFocus={begins}
      fault={fault}
      {...first}
    />
    <TextField label={`${label} again`} type="password" autoComplete="new-password" fault={differ} {...second} />
    {problem && problem.faults.length === 0 && (
      <p role="alert" className="font-semibold text-short">
        {problem.detail}
      </p>
    )}
  </>
);
