import type { Schemas } from "@/api/client";
import type { Evidence, Fact, Operation, Page } from "./document";

type Proposal = Schemas["ProposalView"];
type Fasteners = NonNullable<Operation["fasteners"]>[number];

/** The page with a proposal taken in; what is there already stays beside it. */
export function accepted(page: Page, item: Proposal, target: string, evidence: Evidence): Partial<Page> {
  if (item.field === "note") return { notes: [...(page.notes ?? []), { text: item.text }] };
  if (item.field === "fasteners") {
    const groups = Array.isArray(item.value.fasteners) ? item.value.fasteners : [];
    const made = fastenersFrom(groups.map((entry: Record<string, unknown>) => ({ entry, words: "", place: null })));
    return {
      operations: (page.operations ?? []).map((step) =>
        step.id === target ? { ...step, fasteners: [...(step.fasteners ?? []), ...made] } : step,
      ),
    };
  }
  return {
    positions: (page.positions ?? []).map((entry) =>
      entry.key === target ? { ...entry, takes: merged(entry.takes ?? {}, item.value, evidence) } : entry,
    ),
  };
}

function merged(
  facts: Record<string, Fact[]>,
  told: Record<string, unknown>,
  evidence: Evidence,
): Record<string, Fact[]> {
  const next = { ...facts };
  for (const [name, value] of Object.entries(told)) {
    if (typeof value !== "string" && typeof value !== "number" && typeof value !== "boolean") continue;
    const said = next[name] ?? [];
    // What is known already is not said again by hearsay.
    if (!said.some((fact) => fact.value === value)) next[name] = [...said, { value, ...evidence }];
  }
  return next;
}

/** What the server understood, as a page writes it. */
function fastenersFrom(groups: Schemas["UnderstoodGroup"][]): Fasteners[] {
  return groups.map(({ entry }) => ({
    group: String(entry.group),
    count: typeof entry.count === "string" ? entry.count : Number(entry.count),
    ...(typeof entry.bit === "string" ? { bit: entry.bit } : {}),
    ...(typeof entry.thread === "string" ? { thread: entry.thread } : {}),
    ...(typeof entry.captive === "boolean" || entry.captive === "mostly" ? { captive: entry.captive } : {}),
    ...(typeof entry.hidden === "string" ? { hidden: entry.hidden } : {}),
    ...(entry.numbered === true ? { numbered: true } : {}),
    ...(isKind(entry.kind) ? { kind: entry.kind } : {}),
  }));
}

type KindOfFastener = NonNullable<Fasteners["kind"]>;
const isKind = (kind: unknown): kind is KindOfFastener =>
  kind === "screw" || kind === "jack" || kind === "cam" || kind === "latch" || kind === "clip";
