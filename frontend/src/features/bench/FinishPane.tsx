import { useState } from "react";
import { isProblem, type Schemas } from "@/api/client";
import { TextArea } from "@/ui/Field";
import { TouchButton, TouchToggle } from "@/ui/Touch";
import { useReport, useStandIn } from "./bench.queries";
import { CloseForm } from "./CloseForm";
import type { Job, LocalJob } from "./local";
import type { Bench } from "./useBench";

interface FinishProps {
  job: Job;
  local: LocalJob;
  bench: Bench;
  onLost: () => void;
}

/** After the last step: what is unequal by name, the closed machine, what it reports, and the end of the job. */
export function FinishPane({ job, local, bench, onLost }: FinishProps) {
  const opened = job.done.length > 0;
  const blocked = job.mismatches.length > 0;
  const unchecked = opened && Object.values(job.checks).some((done) => !done);
  return (
    <div className="grid gap-5">
      <h1 className="text-[2.2rem]">{blocked ? "Something is still out" : "Check the machine, then close the job"}</h1>
      {blocked && <Mismatch job={job} local={local} bench={bench} onLost={onLost} />}
      {!blocked && opened && (
        <section aria-label="The closed machine" className="grid gap-2">
          <h2 className="border-b border-rule text-[1.4rem]">The closed machine</h2>
          {Object.entries(job.check_words).map(([key, words]) => (
            <TouchToggle
              key={key}
              on={job.checks[key] === true}
              onChange={(on) => void bench.write("check", { [key]: on })}
            >
              {words}
            </TouchToggle>
          ))}
        </section>
      )}
      {!blocked && <ReportPane job={job} bench={bench} />}
      {!blocked && !unchecked && <CloseForm job={job} bench={bench} />}
    </div>
  );
}

/** The closing is blocked, by name, while anything is unequal; what is found can be put back here. */
function Mismatch({ job, local, bench, onLost }: FinishProps) {
  const groups = local.tray.filter((group) => group.out > group.back);
  const leads = local.leads.filter((lead) => !lead.back);
  return (
    <NotBack
      what={`The job cannot be closed: ${job.mismatches.join("; ")}.`}
      groups={groups.map((group) => ({ group: group.group, count: group.out - group.back }))}
      leads={leads.map((lead) => lead.name)}
      bench={bench}
      onLost={onLost}
    />
  );
}

interface NotBackProps {
  what: string;
  groups: { group: string; count: number }[];
  leads: string[];
  bench: Bench;
  onLost: () => void;
}

/** What is out and should be back: tapped when it is, and what is lost has its end told. */
export function NotBack({ what, groups, leads, bench, onLost }: NotBackProps) {
  return (
    <section role="alert" className="mt-3 grid gap-3 border-2 border-short bg-leaf p-4">
      <p className="text-[1.3rem] font-semibold text-short">{what}</p>
      <p>Open it again as far as needed. Power off and isolated first. What is back, tap here.</p>
      <div className="flex flex-wrap gap-3">
        {groups.map(({ group, count }) => (
          <TouchButton key={group} onClick={() => void bench.write("refit", { screws: { [group]: count } })}>
            {count} × {group} back
          </TouchButton>
        ))}
        {leads.map((lead) => (
          <TouchButton key={lead} onClick={() => void bench.write("refit", { leads: [lead] })}>
            {lead} back
          </TouchButton>
        ))}
        {groups.length > 0 && <TouchButton onClick={onLost}>A screw does not come back</TouchButton>}
      </div>
    </section>
  );
}

const FAULTS = ["memory", "drive", "pack", "fan"] as const;
const TONES: Record<string, string> = { yes: "text-covered", no: "text-short", unknown: "text-thin" };
const MARKS: Record<string, string> = { yes: "as planned", no: "differs", unknown: "not known" };

/** What the machine says of itself against plan: asked of the machine, or pasted. */
function ReportPane({ job, bench }: { job: Job; bench: Bench }) {
  const [pasting, setPasting] = useState(false);
  const [text, setText] = useState("");
  const [fault, setFault] = useState<(typeof FAULTS)[number] | null>(null);
  const report = useReport(job.id);
  const standIn = useStandIn(job.id);
  const failed = [report.error, standIn.error].find(isProblem);
  return (
    <section aria-label="What the machine reports" className="grid gap-2">
      <h2 className="border-b border-rule text-[1.4rem]">What the machine reports</h2>
      {job.report.length > 0 && <Figures figures={job.report} />}
      {job.report.length === 0 && <p className="text-soft">Start it once, then ask it, or paste its listing.</p>}
      <div className="flex flex-wrap gap-3">
        <TouchButton disabled={standIn.isPending} onClick={() => standIn.mutate({ device: bench.device, fault })}>
          Ask the machine (simulated)
        </TouchButton>
        <label className="flex items-center gap-2 text-soft">
          which is
          <select
            className="min-h-[56px] border-2 border-soft bg-leaf px-2 text-ink"
            value={fault ?? ""}
            onChange={(event) => setFault(FAULTS.find((name) => name === event.target.value) ?? null)}
          >
            <option value="">healthy</option>
            {FAULTS.map((name) => (
              <option key={name} value={name}>
                faulty: {name}
              </option>
            ))}
          </select>
        </label>
        <TouchButton onClick={() => setPasting(!pasting)}>Paste a report</TouchButton>
      </div>
      {pasting && (
        <form
          className="grid gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            report.mutate({ device: bench.device, text }, { onSuccess: () => setPasting(false) });
          }}
        >
          <TextArea
            label="Report of the machine: JSON, or the lines of a hardware listing"
            rows={6}
            className="code"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <TouchButton type="submit" look="main" className="justify-self-start">
            Compare with plan
          </TouchButton>
        </form>
      )}
      {failed && (
        <p role="alert" className="font-semibold text-short">
          {failed.detail}
        </p>
      )}
    </section>
  );
}

function Figures({ figures }: { figures: Schemas["FigureView"][] }) {
  return (
    <table className="w-full">
      <thead>
        <tr className="border-b border-ink">
          {["", "Planned", "Reported", "", ""].map((head, place) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: columns do not move
            <th key={place} scope="col" className="py-1 pr-3">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {figures.map((item, place) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: two drives may read alike
          <tr key={place} className="border-b border-dotted border-rule align-top">
            <th scope="row" className="py-1 pr-3">
              {item.what}
            </th>
            <td className="pr-3 whitespace-nowrap">{item.planned}</td>
            <td className="pr-3 whitespace-nowrap">{item.reported}</td>
            <td className={`pr-3 font-semibold whitespace-nowrap ${TONES[item.verdict]}`}>{MARKS[item.verdict]}</td>
            <td className="text-soft">{item.reason}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
