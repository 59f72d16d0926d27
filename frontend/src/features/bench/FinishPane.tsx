import { TouchButton, TouchToggle } from "@/ui/Touch";
import { CloseForm } from "./CloseForm";
import type { Job, LocalJob } from "./local";
import { ReportPane } from "./ReportPane";
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
