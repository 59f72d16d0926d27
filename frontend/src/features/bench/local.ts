import type { Schemas } from "@/api/client";
import type { Pending } from "./outbox";

export type Job = Schemas["JobView"];
export type Step = Job["steps"][number];

/** The job with what waits in the outbox added, so that the bench goes on while the connection is away. */
export interface LocalJob {
  done: string[];
  next: Step | null;
  place: number;
  tray: Job["tray"];
  leads: Job["leads"];
  /** Gates before the next step that only the server can open. */
  closed: string[];
}

interface Standing {
  done: string[];
  tray: Job["tray"];
  leads: Job["leads"];
  passed: Set<string>;
}

/** What waits that the job as it was read does not hold yet: a reply and the outbox do not change in one moment. */
export function unsent(job: Job, pending: Pending[]): Pending[] {
  const written = new Set(job.journal.map((entry) => entry.key));
  return pending.filter((entry) => !written.has(entry.key));
}

export function withPending(job: Job, pending: Pending[]): LocalJob {
  const start = { done: job.done, tray: job.tray, leads: job.leads, passed: new Set(job.passed) };
  const { done, tray, leads, passed } = unsent(job, pending).reduce(
    (standing, entry) => after(job, standing, entry),
    start,
  );
  const next = job.steps.find((step) => !done.includes(step.id)) ?? null;
  return {
    done,
    next,
    place: next ? job.steps.indexOf(next) : job.steps.length,
    tray,
    leads,
    closed: next ? next.gates.filter((gate) => !passed.has(gate)) : [],
  };
}

function after(job: Job, standing: Standing, entry: Pending | Omit<Pending, "order">): Standing {
  if (entry.kind === "back") {
    const last = job.steps.find((step) => step.id === standing.done.at(-1));
    const [tray, leads] = last ? undone(last, standing.tray, standing.leads) : [standing.tray, standing.leads];
    // What is opened again passes its gates again, and a power test had the power on.
    const again = last?.phase === "closing" || last?.id === "test" ? ["power", "isolation", "static"] : [];
    const passed = new Set([...standing.passed].filter((gate) => !again.includes(gate)));
    return { done: standing.done.slice(0, -1), tray, leads, passed };
  }
  const step = entry.kind === "step" ? job.steps.find((item) => item.id === entry.data.step) : undefined;
  if (!step) return standing;
  const [tray, leads] = (step.phase === "opening" ? out : back)(step, entry.data, standing.tray, standing.leads);
  const reopened = step.id === "test" ? ["power", "isolation"] : [];
  const passed = new Set([...standing.passed].filter((gate) => !reopened.includes(gate)));
  return { done: [...standing.done, step.id], tray, leads, passed };
}

type Sets = [Job["tray"], Job["leads"]];

const counts = (value: unknown): Record<string, number> =>
  typeof value === "object" && value !== null
    ? Object.fromEntries(Object.entries(value).map(([group, count]) => [group, Number(count)]))
    : {};

const flags = (value: unknown): Record<string, unknown> =>
  typeof value === "object" && value !== null ? Object.fromEntries(Object.entries(value)) : {};

/** Loose screws a step puts into the tray: counted ones if they were counted, else as the page says. */
export function looseOut(step: Step, data: Record<string, unknown>): Record<string, number> {
  const counted = counts(data.screws);
  const captive = flags(data.captive);
  return Object.fromEntries(
    step.screws.map((group) => [
      group.group,
      counted[group.group] ?? group.loose + (captive[group.group] === true ? 0 : group.unknown),
    ]),
  );
}

function out(step: Step, data: Record<string, unknown>, tray: Job["tray"], leads: Job["leads"]): Sets {
  const loose = looseOut(step, data);
  const known = new Set(leads.map((lead) => lead.name));
  const fresh = step.leads
    .filter((lead) => !known.has(lead.name))
    .map((lead) => ({ name: lead.name, back: false, how: lead.kind.replaceAll("_", " ") }));
  return [tray.map((group) => ({ ...group, out: group.out + (loose[group.group] ?? 0) })), [...leads, ...fresh]];
}

function back(_: Step, data: Record<string, unknown>, tray: Job["tray"], leads: Job["leads"]): Sets {
  const screws = counts(data.screws);
  const names = Array.isArray(data.leads) ? data.leads : [];
  return [
    tray.map((group) => ({ ...group, back: group.back + (screws[group.group] ?? 0) })),
    leads.map((lead) => (names.includes(lead.name) ? { ...lead, back: true } : lead)),
  ];
}

/** One step back while the connection is away: what the page says the step took is put right; the server counts exactly. */
function undone(step: Step, tray: Job["tray"], leads: Job["leads"]): Sets {
  const names = new Set(step.leads.map((lead) => lead.name));
  if (step.phase === "opening") {
    const loose = looseOut(step, {});
    return [
      tray.map((group) => ({ ...group, out: Math.max(group.out - (loose[group.group] ?? 0), 0) })),
      leads.filter((lead) => !names.has(lead.name)),
    ];
  }
  return [tray, leads.map((lead) => (names.has(lead.name) ? { ...lead, back: false } : lead))];
}

/** What a closing step should put back: the loose screws its opening took out, as far as they are still out. */
export function toPutBack(job: Job, step: Step, tray: Job["tray"]): { group: string; count: number }[] {
  const opening = job.steps.find((item) => item.id === `open:${step.operation}`);
  if (!opening || step.left_out) return [];
  return opening.screws.flatMap((group) => {
    const still = tray.find((item) => item.group === group.group);
    const count = Math.min(group.loose + group.unknown, (still?.out ?? 0) - (still?.back ?? 0));
    return count > 0 ? [{ group: group.group, count }] : [];
  });
}

export const PHASES: Record<string, string> = {
  opening: "opening",
  swap: "the swap",
  test: "test before closing",
  closing: "closing",
};

export const STATES: Record<string, string> = {
  open: "not begun",
  waiting: "waiting",
  running: "at the bench",
  parked: "parked",
  stopped: "stopped",
  watching: "being watched",
  closed: "closed",
  abandoned: "given up",
};

export const PURPOSES: Record<string, string> = {
  repair: "repair",
  upgrade: "upgrade",
  preventive: "planned swap",
  survey: "survey",
};
