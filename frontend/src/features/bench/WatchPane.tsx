import { useState } from "react";
import { isProblem } from "@/api/client";
import { day } from "@/lib/format";
import { FINDING_NAMES, FINDINGS, type FindingName } from "@/lib/words";
import { Button } from "@/ui/Button";
import { SelectField, TextArea } from "@/ui/Field";
import { useSettle } from "./bench.queries";
import type { Job } from "./local";
import { TakenNotice } from "./TakenNotice";
import { useBench } from "./useBench";

const PROOFS = ["swollen", "broken", "burnt"] as const;
type Proof = (typeof PROOFS)[number];

/** Watching a cured machine: cold starts counted, days awaited, then the finding is settled. */
export function WatchPane({ job, may }: { job: Job; may: boolean }) {
  return (
    <section aria-label="Watching" className="mt-4 border-2 border-rule p-3">
      <h3 className="text-[1.15rem]">Watching</h3>
      <p>
        {job.cold_starts} of {job.cold_starts_wanted} cold starts good
        {job.watch_until && `, until ${day(job.watch_until)} at least`}.
        {job.came_back && <strong className="ml-2 text-short">The fault came back: it was not that part alone.</strong>}
      </p>
      {may && <WatchActions job={job} />}
    </section>
  );
}

function WatchActions({ job }: { job: Job }) {
  const bench = useBench(job.id);
  const settle = useSettle(job.id);
  const [finding, setFinding] = useState<FindingName>(job.came_back ? "no_fault_found" : "confirmed");
  const [elsewhere, setElsewhere] = useState("");
  const [proof, setProof] = useState("");
  const [note, setNote] = useState("");
  const problem = isProblem(settle.error) ? settle.error : null;
  const send = (): void =>
    settle.mutate({
      finding,
      fails_elsewhere: elsewhere === "" ? null : elsewhere === "yes",
      proof: PROOFS.find((name): name is Proof => name === proof) ?? null,
      note,
    });
  return (
    <>
      <TakenNotice bench={bench} />
      <div className="mt-2 flex gap-3">
        <Button onClick={() => void bench.write("cold_start", { good: true })}>Cold start, good</Button>
        <Button onClick={() => void bench.write("cold_start", { good: false })}>It came back</Button>
      </div>
      <form
        className="mt-3 grid gap-3 border-t border-rule pt-2"
        onSubmit={(event) => {
          event.preventDefault();
          send();
        }}
      >
        <div className="grid grid-cols-3 gap-3">
          <SelectField
            label="Finding"
            value={finding}
            fault={problem?.at("finding") ?? (problem && problem.faults.length === 0 ? problem.detail : undefined)}
            onChange={(event) => setFinding(FINDINGS.find((name) => name === event.target.value) ?? "open")}
          >
            {FINDINGS.map((name) => (
              <option key={name} value={name}>
                {FINDING_NAMES[name]}
              </option>
            ))}
          </SelectField>
          <SelectField
            label="The old part elsewhere"
            value={elsewhere}
            onChange={(event) => setElsewhere(event.target.value)}
          >
            <option value="">nobody tried</option>
            <option value="yes">fails there too</option>
            <option value="no">works there</option>
          </SelectField>
          <SelectField label="Physical proof" value={proof} onChange={(event) => setProof(event.target.value)}>
            <option value="">none</option>
            {PROOFS.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </SelectField>
        </div>
        <TextArea label="Note" rows={2} value={note} onChange={(event) => setNote(event.target.value)} />
        <Button type="submit" look="main" className="justify-self-start" disabled={settle.isPending}>
          Settle the finding
        </Button>
      </form>
    </>
  );
}
