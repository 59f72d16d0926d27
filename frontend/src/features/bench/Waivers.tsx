import type { Job } from "./local";

/** Gates that nobody passed, in the warning colour wherever the job is shown: a waived check is never a tick. */
export function Waivers({ job }: { job: Job }) {
  return (
    <>
      {job.waivers.map((waiver) => (
        <strong key={waiver.gate} className="text-short">
          {waiver.words}
        </strong>
      ))}
    </>
  );
}
