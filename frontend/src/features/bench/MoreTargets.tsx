import { useState } from "react";
import { isProblem } from "@/api/client";
import { TextField } from "@/ui/Field";
import { TouchButton, TouchToggle } from "@/ui/Touch";
import { useModelPage, useTargets } from "./bench.queries";
import type { Job } from "./local";
import type { Bench } from "./useBench";

/** What a job is to reach. Leaving the route that was agreed asks for a reason. */
export function MoreTargets({ job, bench, onClose }: { job: Job; bench: Bench; onClose: () => void }) {
  const page = useModelPage(job.model_id);
  const change = useTargets(job.id);
  const [chosen, setChosen] = useState<string[]>(job.targets);
  const [reason, setReason] = useState("");
  const problem = isProblem(change.error) ? change.error : null;
  const begun = job.done.length > 0;
  const send = (plain = false): void =>
    change.mutate(
      {
        device: bench.device,
        targets: chosen,
        direct: [],
        include: [],
        lift_pack_out: false,
        test_first: null,
        remote: false,
        plain,
        powered: false, // the way a job began by is kept
        reason,
      },
      { onSuccess: onClose },
    );
  return (
    <form
      className="grid gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        send();
      }}
    >
      <fieldset>
        <legend className="font-semibold">Parts to reach</legend>
        <div className="mt-1 grid grid-cols-2 gap-2 max-[700px]:grid-cols-1">
          {(page.data?.positions ?? []).map((entry) => (
            <TouchToggle
              key={entry.key}
              on={chosen.includes(entry.key)}
              onChange={(on) => {
                if (!on && begun && job.targets.includes(entry.key)) return;
                setChosen(on ? [...chosen, entry.key] : chosen.filter((key) => key !== entry.key));
              }}
            >
              {entry.label}
            </TouchToggle>
          ))}
        </div>
      </fieldset>
      {job.targets.length > 0 && (
        <TextField
          label="Why this leaves what was agreed"
          value={reason}
          fault={problem?.at("reason")}
          onChange={(event) => setReason(event.target.value)}
        />
      )}
      {problem && !problem.at("reason") && (
        <p role="alert" className="font-semibold text-short">
          {problem.detail}
        </p>
      )}
      {problem?.at("targets") && (
        <TouchButton onClick={() => send(true)}>Nobody described it: type the way in at the bench</TouchButton>
      )}
      <TouchButton type="submit" look="main" disabled={chosen.length === 0 || change.isPending}>
        Plan the way to {chosen.length === 1 ? "it" : "them"}
      </TouchButton>
    </form>
  );
}
