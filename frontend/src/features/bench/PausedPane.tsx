import { useState } from "react";
import { useNavigate } from "react-router";
import { isProblem } from "@/api/client";
import { TextField } from "@/ui/Field";
import { TouchButton, TouchToggle } from "@/ui/Touch";
import { AskApproval } from "./Approvals";
import { useAbandon } from "./bench.queries";
import { waitedWords } from "./Issued";
import type { Job } from "./local";
import type { Bench } from "./useBench";
import { Waivers } from "./Waivers";

/** A job that does not go on: it waits, is parked, or a dangerous pack stopped it. It resumes only after its state was read. */
export function PausedPane({ job, bench }: { job: Job; bench: Bench }) {
  if (job.state === "stopped") return <Stopped job={job} bench={bench} />;
  if (job.state === "waiting") {
    return (
      <div className="grid gap-4">
        <h1 className="text-[2.2rem]">Waiting for {job.waiting_for}</h1>
        {job.waited && <p className="text-[1.3rem]">{waitedWords(job.waited)}</p>}
        <TouchButton look="main" className="justify-self-start" onClick={() => void bench.write("resume", {})}>
          It is here: go on
        </TouchButton>
      </div>
    );
  }
  return <Parked job={job} bench={bench} />;
}

function Parked({ job, bench }: { job: Job; bench: Bench }) {
  const [read, setRead] = useState(false);
  const parked = job.parked ?? {};
  const out = job.tray.filter((group) => group.out > group.back);
  const leads = job.leads.filter((lead) => !lead.back);
  return (
    <div className="grid gap-4">
      <h1 className="text-[2.2rem]">Parked: {String(parked.words ?? "")}</h1>
      <dl className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-6 gap-y-2 text-[1.2rem]">
        <dt className="text-soft">Out of the machine</dt>
        <dd>
          {out.map((group) => `${group.out - group.back} × ${group.group}`).join(", ") || "no screw"}
          {leads.length > 0 && `; leads off: ${leads.map((lead) => lead.name).join(", ")}`}
        </dd>
        <dt className="text-soft">The screws are</dt>
        <dd>{String(parked.screws_where || "nothing is out")}</dd>
        <dt className="text-soft">Isolated</dt>
        <dd className={parked.isolated ? "" : "font-semibold text-short"}>
          {parked.isolated ? "said so when it was parked" : "no: cut the power before it is touched"}
        </dd>
        {job.waivers.length > 0 && (
          <>
            <dt className="text-soft">Not checked</dt>
            <dd className="grid">
              <Waivers job={job} />
            </dd>
          </>
        )}
      </dl>
      <TouchToggle on={read} onChange={setRead}>
        I have read this. Power and isolation are asked again before the next step.
      </TouchToggle>
      <TouchButton
        look="main"
        className="justify-self-start"
        disabled={!read}
        onClick={() => void bench.write("resume", { read })}
      >
        Go on
      </TouchButton>
    </div>
  );
}

function Stopped({ job, bench }: { job: Job; bench: Bench }) {
  const pack = job.danger.length > 0;
  return (
    <div className="grid gap-4">
      <h1 className="text-[2.2rem] text-short">
        {pack
          ? `Stop, the pack: ${job.danger.join(", ")}`
          : `Not opened: ${job.referral.join(", ")}, with mains inside`}
      </h1>
      <p className="border-2 border-short bg-leaf p-3 text-[1.2rem]">
        {pack
          ? "No pressing, prying, charging or closing. Quarantine machine and pack as the site's fire and safety officer and the maker's procedure say. No transfer is offered here: carrier, dangerous-goods rules and local waste law decide."
          : "This is licensed work under the local code: nothing is opened. Only socket and lead are checked, from outside the closed case."}
      </p>
      {pack && <Quarantine job={job} bench={bench} />}
      <section aria-label="Release">
        <h2 className="text-[1.3rem]">
          {pack
            ? "Or: a lead releases it with the fire and safety officer"
            : "After the licensed work: a lead releases it"}
        </h2>
        <AskApproval job={job} kind="release" subject="" label="What was done" act="Ask a lead to release it" />
      </section>
    </div>
  );
}

function Quarantine({ job, bench }: { job: Job; bench: Bench }) {
  const [where, setWhere] = useState("");
  const end = useAbandon(job.id);
  const navigate = useNavigate();
  const problem = isProblem(end.error) ? end.error : null;
  const send = (): void =>
    end.mutate(
      { device: bench.device, reason: `pack ${job.danger.join(", ")}`, quarantine: where },
      { onSuccess: () => void navigate(`/bench/${job.id}`) },
    );
  return (
    <form
      className="grid max-w-[560px] gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        send();
      }}
    >
      <TextField
        label="Where machine and pack are quarantined, and who was called"
        className="min-h-[48px]"
        fault={problem?.at("quarantine") ?? (problem && problem.faults.length === 0 ? problem.detail : undefined)}
        value={where}
        onChange={(event) => setWhere(event.target.value)}
      />
      <TouchButton type="submit" look="danger" className="justify-self-start" disabled={end.isPending}>
        Record the quarantine and end the job
      </TouchButton>
    </form>
  );
}
