import type { Schemas } from "@/api/client";
import { SelectField, TextField } from "@/ui/Field";

export type Evidence = Required<Schemas["EvidenceIn"]>;

export const NO_EVIDENCE: Evidence = { cold_starts: 0, fails_elsewhere: null, proof: null };
const PROOFS = ["swollen", "broken", "burnt"] as const;

const elsewhereOf = (value: string): boolean | null => (value === "" ? null : value === "yes");

/** What "confirmed" rests on: the cure held, and the old part fails elsewhere or shows physical proof. */
export function EvidenceFields({ value, onChange }: { value: Evidence; onChange: (value: Evidence) => void }) {
  const elsewhere = value.fails_elsewhere === null ? "" : value.fails_elsewhere ? "yes" : "no";
  return (
    <fieldset className="grid grid-cols-3 gap-3 border-l-4 border-rule pl-3">
      <legend className="sr-only">What shows that it had failed</legend>
      <TextField
        label="Cold starts since, good"
        inputMode="numeric"
        value={String(value.cold_starts)}
        onChange={(event) => onChange({ ...value, cold_starts: Number(event.target.value.replace(/\D/g, "")) || 0 })}
      />
      <SelectField
        label="The old part elsewhere"
        value={elsewhere}
        onChange={(event) => onChange({ ...value, fails_elsewhere: elsewhereOf(event.target.value) })}
      >
        <option value="">nobody tried</option>
        <option value="yes">fails there too</option>
        <option value="no">works there</option>
      </SelectField>
      <SelectField
        label="Physical proof"
        value={value.proof ?? ""}
        onChange={(event) => onChange({ ...value, proof: PROOFS.find((name) => name === event.target.value) ?? null })}
      >
        <option value="">none</option>
        {PROOFS.map((name) => (
          <option key={name}>{name}</option>
        ))}
      </SelectField>
    </fieldset>
  );
}
