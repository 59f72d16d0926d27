import { type FormEvent, useState } from "react";
import { TextField } from "@/ui/Field";
import { TouchButton } from "@/ui/Touch";
import type { Job } from "./local";
import type { Bench } from "./useBench";

interface CorrectionProps {
  job: Job;
  bench: Bench;
  position: string;
}

const words = (value: unknown): string => (typeof value === "string" ? value : "");

/** What was misread or mistyped at the swap is corrected in the journal, with its reason; record, shelf and serial follow from it. */
export function Correction({ job, bench, position }: CorrectionProps) {
  const swapped = job.swapped[position];
  const [open, setOpen] = useState(false);
  const [part, setPart] = useState(words(swapped?.part_number));
  const [serial, setSerial] = useState(words(swapped?.serial));
  const [old, setOld] = useState(words(swapped?.removed_serial));
  const [reason, setReason] = useState("");
  if (!open) {
    const told = [
      swapped?.serial && `serial ${words(swapped.serial)}`,
      swapped?.removed_serial && `out ${words(swapped.removed_serial)}`,
    ];
    return (
      <p className="text-soft">
        {told.filter(Boolean).join(", ") || "no serial was read"}{" "}
        <button type="button" className="min-h-[44px] text-accent underline" onClick={() => setOpen(true)}>
          correct what was read
        </button>
      </p>
    );
  }
  const send = (event: FormEvent): void => {
    event.preventDefault();
    event.stopPropagation();
    void bench
      .write("correct", {
        position,
        part_number: part.trim(),
        serial: serial.trim(),
        removed_serial: old.trim(),
        reason,
      })
      .then(() => setOpen(false));
  };
  return (
    <div className="grid gap-2 border-l-4 border-rule pl-3">
      <div className="grid grid-cols-3 gap-3 max-[700px]:grid-cols-1">
        <TextField
          label="Part fitted"
          className="code min-h-[48px]"
          value={part}
          onChange={(event) => setPart(event.target.value)}
        />
        <TextField
          label="Its serial"
          className="code min-h-[48px]"
          value={serial}
          onChange={(event) => setSerial(event.target.value)}
        />
        <TextField
          label="Serial of the old part"
          className="code min-h-[48px]"
          value={old}
          onChange={(event) => setOld(event.target.value)}
        />
      </div>
      <TextField
        label="Why it is corrected"
        className="min-h-[48px]"
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <TouchButton className="justify-self-start" disabled={!reason.trim() || !part.trim()} onClick={send}>
        Correct it
      </TouchButton>
    </div>
  );
}
