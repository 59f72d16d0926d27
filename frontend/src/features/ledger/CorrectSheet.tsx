import { useState } from "react";
import { useForm } from "react-hook-form";
import { isProblem } from "@/api/client";
import { FINDING_NAMES, FINDINGS, type FindingName } from "@/lib/words";
import { Button } from "@/ui/Button";
import { SelectField, TextArea, TextField } from "@/ui/Field";
import { FoundField, mayBeFound } from "@/ui/FoundField";
import { Sheet } from "@/ui/Sheet";
import { EvidenceFields, NO_EVIDENCE } from "./EvidenceFields";
import { type LogEntry, useCorrect } from "./ledger.queries";

interface CorrectForm {
  finding: FindingName;
  occurred_on: string;
  reason: string;
  minutes: string;
  note: string;
  last_good_on: string;
}

/** A correction is the next revision: nothing that was written before is lost. */
export function CorrectSheet({ entry, asOf, onClose }: { entry: LogEntry; asOf: string; onClose: () => void }) {
  const [evidence, setEvidence] = useState(NO_EVIDENCE);
  const { register, handleSubmit, watch } = useForm<CorrectForm>({
    defaultValues: {
      finding: FINDINGS.find((name) => name === entry.finding) ?? "open",
      occurred_on: entry.occurred_on,
      reason: entry.reason,
      minutes: entry.minutes === null ? "" : String(entry.minutes),
      note: entry.note,
      last_good_on: entry.last_good_on ?? "",
    },
  });
  const correct = useCorrect();
  const problem = isProblem(correct.error) ? correct.error : null;
  const send = ({ minutes, last_good_on, ...values }: CorrectForm): void =>
    correct.mutate(
      {
        incident_id: entry.incident_id,
        expected_number: entry.number,
        minutes: minutes === "" ? null : Number(minutes),
        ...values,
        last_good_on: mayBeFound(values.finding) ? last_good_on || null : null,
        evidence,
      },
      { onSuccess: onClose },
    );
  return (
    <Sheet
      open
      onClose={onClose}
      title={entry.finding === "open" ? "Settle the finding" : "Correct the record"}
      about="Confirmed means the cure held, and the old part failed elsewhere or shows physical proof. The earlier record stays in the history."
    >
      <form className="grid gap-3" onSubmit={handleSubmit(send)}>
        <SelectField label="Finding" fault={problem?.at("finding")} {...register("finding")}>
          {FINDINGS.map((name) => (
            <option key={name} value={name}>
              {FINDING_NAMES[name]}
            </option>
          ))}
        </SelectField>
        {watch("finding") === "confirmed" && <EvidenceFields value={evidence} onChange={setEvidence} />}
        <div className="grid grid-cols-2 gap-3">
          <TextField
            label="Day"
            type="date"
            max={asOf}
            fault={problem?.at("occurred_on")}
            {...register("occurred_on")}
          />
          <TextField
            label="Minutes at the bench"
            inputMode="numeric"
            fault={problem?.at("minutes")}
            {...register("minutes")}
          />
        </div>
        {mayBeFound(watch("finding")) && (
          <FoundField max={watch("occurred_on")} fault={problem?.at("last_good_on")} {...register("last_good_on")} />
        )}
        <TextField label="What was noticed" fault={problem?.at("reason")} {...register("reason")} />
        <TextArea label="Note" rows={3} {...register("note")} />
        {problem && problem.faults.length === 0 && (
          <p role="alert" className="font-semibold text-short">
            {problem.detail}
          </p>
        )}
        <div className="flex gap-3">
          <Button type="submit" look="main" disabled={correct.isPending}>
            Write revision {entry.number + 1}
          </Button>
          <Button onClick={onClose}>Cancel</Button>
        </div>
      </form>
    </Sheet>
  );
}
