import type { Job, LocalJob, Step } from "./local";

const MOST_DOTS = 12;

/** Trays and leads, always in view: what is out of the machine now, and what is back. */
export function TrayPane({ job, local }: { job: Job; local: LocalJob }) {
  const out = local.tray.reduce((sum, group) => sum + group.out, 0);
  const back = local.tray.reduce((sum, group) => sum + Math.min(group.back, group.out), 0);
  const off = local.leads.filter((lead) => !lead.back).length;
  return (
    <>
      <section aria-label="Trays">
        <h2 className="flex items-baseline justify-between border-b border-rule font-sans">
          Trays
          <span className="font-normal text-soft">
            {out} out, {out - back} to come back
          </span>
        </h2>
        <ul className="mt-2 grid gap-1.5">
          {local.tray.map((group) => (
            <TrayGroup key={group.group} group={group} />
          ))}
        </ul>
        {local.tray.length === 0 && <p className="text-soft">No screws on this way.</p>}
        {job.screw_ends.map((words) => (
          <p key={words} className="mt-1 font-semibold text-thin">
            {words}
          </p>
        ))}
      </section>
      <section aria-label="Leads" className="mt-5">
        <h2 className="flex items-baseline justify-between border-b border-rule font-sans">
          Leads
          <span className="font-normal text-soft">
            {local.leads.length} out, {local.leads.length - off} back
          </span>
        </h2>
        <ul>
          {local.leads.map((lead) => (
            <li
              key={lead.name}
              className="flex items-baseline justify-between gap-3 border-b border-dotted border-rule py-1.5"
            >
              <span className="font-semibold">{lead.name}</span>
              <span className="flex-1 text-[0.9em] text-soft">{lead.how}</span>
              <span className={`font-semibold ${lead.back ? "text-covered" : "text-thin"}`}>
                {lead.back ? "back ✓" : "out"}
              </span>
            </li>
          ))}
        </ul>
        {local.leads.length === 0 && <p className="text-soft">None is out.</p>}
      </section>
      <Next job={job} local={local} />
    </>
  );
}

function TrayGroup({ group }: { group: LocalJob["tray"][number] }) {
  const open = group.out > group.back;
  const empty = group.out === 0;
  const words = empty
    ? group.expected > 0 || !group.exact
      ? `0 out${group.exact ? ` of ${group.expected}` : ", nobody has counted them yet"}`
      : `${group.captive} captive: undone, they stay in`
    : `${group.out} out, ${group.back} back`;
  return (
    <li className={`rounded-[3px] border-2 px-3 py-1.5 ${open ? "border-thin" : "border-rule"}`}>
      <div className="flex items-center justify-between gap-3">
        <strong className="min-w-0 truncate">{group.group}</strong>
        <Dots group={group} />
      </div>
      <p className="text-[0.9em] text-soft">
        {words}
        {!empty && group.captive > 0 && `, ${group.captive} captive stay in`}
      </p>
    </li>
  );
}

/** Loose screws are discs, filled while they are out; captive ones are rings that never fill. */
function Dots({ group }: { group: LocalJob["tray"][number] }) {
  const loose = Math.max(group.expected, group.out);
  const still = group.out - group.back;
  const shown = Math.min(loose, MOST_DOTS);
  const rings = Math.min(group.captive, MOST_DOTS - shown);
  const more = loose + group.captive - shown - rings;
  return (
    <span className="flex shrink-0 items-center gap-1" aria-hidden>
      {Array.from({ length: shown }, (_, place) => (
        <span
          key={`disc-${place}`}
          className={`size-3.5 rounded-full border-2 ${place < still ? "border-thin bg-thin" : "border-soft"}`}
        />
      ))}
      {Array.from({ length: rings }, (_, place) => (
        <span key={`ring-${place}`} className="size-3.5 rounded-full border-2 border-dotted border-soft" />
      ))}
      {more > 0 && <span className="text-soft">+{more}</span>}
    </span>
  );
}

function Next({ job, local }: { job: Job; local: LocalJob }) {
  const coming: Step[] = job.steps.slice(local.place + 1, local.place + 5);
  if (coming.length === 0) return null;
  return (
    <section aria-label="Next" className="mt-5">
      <h2 className="border-b border-rule font-sans">Next</h2>
      <ol>
        {coming.map((step, place) => (
          <li key={step.id} className="flex gap-2 py-1 text-soft">
            <span className="w-6 text-right">{local.place + place + 2}</span>
            <span className="min-w-0 flex-1">{step.text}</span>
          </li>
        ))}
      </ol>
    </section>
  );
}
