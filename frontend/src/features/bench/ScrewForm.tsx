import { useState } from "react";
import { TextField } from "@/ui/Field";
import { TouchButton, TouchChoice } from "@/ui/Touch";
import { AskApproval } from "./Approvals";
import type { Job, LocalJob } from "./local";
import type { Bench } from "./useBench";

const ENDS = [
  ["found", "found: it was lost and is here again"],
  ["outside", "lost outside the machine"],
  ["inside", "perhaps inside: no power until found or searched"],
  ["replaced", "replaced by another"],
  ["left_out", "left out, with approval"],
] as const;

/** A screw that does not come back has an honest end; one that may lie inside keeps the power off. */
export function ScrewForm({
  job,
  local,
  bench,
  onClose,
}: {
  job: Job;
  local: LocalJob;
  bench: Bench;
  onClose: () => void;
}) {
  const groups = local.tray.filter((group) => group.out > group.back).map((group) => group.group);
  const [group, setGroup] = useState(groups[0] ?? null);
  const [end, setEnd] = useState<string | null>(null);
  const [count, setCount] = useState("1");
  const [size, setSize] = useState("");
  const number = Number(count);
  if (group === null) return <p>No screw is out of this machine.</p>;
  return (
    <div className="grid gap-3">
      <TouchChoice
        label="Which one"
        value={group}
        choices={groups.map((name) => [name, name] as const)}
        onChange={setGroup}
      />
      <TextField
        label="How many"
        className="min-h-[48px] max-w-[120px]"
        inputMode="numeric"
        value={count}
        onChange={(event) => setCount(event.target.value)}
      />
      <TouchChoice label="What became of it" value={end} choices={ENDS} onChange={setEnd} />
      {end === "replaced" && (
        <TextField label="Replaced by which size" value={size} onChange={(event) => setSize(event.target.value)} />
      )}
      {bench.refused.map((reason) => (
        <p key={reason} role="alert" className="font-semibold text-short">
          {reason}
        </p>
      ))}
      {end === "left_out" ? (
        <AskApproval
          job={job}
          kind="left_out"
          subject={group}
          count={number}
          label="Why it may be left out"
          act="Ask a second person"
        />
      ) : (
        <TouchButton
          look="main"
          disabled={end === null || !Number.isInteger(number) || number < 1}
          onClick={() =>
            void bench.write("screw", { group, end, count: number, size }).then((taken) => taken && onClose())
          }
        >
          Keep it with the job
        </TouchButton>
      )}
    </div>
  );
}
