import "fake-indexeddb/auto";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { type Job, looseOut, toPutBack, withPending } from "./local";
import { forget, keep, made, pendingOf } from "./outbox";

const step = (id: string, phase: string, more: object = {}) => ({
  id,
  phase,
  operation: id.split(":")[1] ?? null,
  screws: [],
  leads: [],
  gates: [],
  left_out: false,
  ...more,
});

const job = {
  done: [],
  passed: ["power"],
  steps: [
    step("open:cover", "opening", {
      screws: [{ group: "long", loose: 3, captive: 0, unknown: 1 }],
      leads: [{ name: "fan lead", kind: "press_fit", release: null }],
      gates: ["power"],
    }),
    step("test", "test"),
    step("isolate", "test"),
    step("close:cover", "closing", { gates: ["isolation"], leads: [{ name: "fan lead", kind: "press_fit" }] }),
  ],
  tray: [{ group: "long", out: 0, back: 0, expected: 4, captive: 0 }],
  leads: [],
  journal: [],
} as unknown as Job;

const entry = (kind: string, data: Record<string, unknown> = {}) => ({ ...made(1, kind, data) });

describe("a job while the connection is away", () => {
  it("goes on from step to step with trays and leads", () => {
    const local = withPending(job, [entry("step", { step: "open:cover", captive: { long: false } })]);
    expect(local.next?.id).toBe("test");
    expect(local.tray[0]?.out).toBe(4);
    expect(local.leads.map((lead) => lead.name)).toEqual(["fan lead"]);
    expect(local.closed).toEqual([]);
  });

  it("waits at a gate that only the server opens, also one a test has opened again", () => {
    const steps = ["open:cover", "test", "isolate"].map((id) => entry("step", { step: id }));
    expect(withPending(job, steps).closed).toEqual(["isolation"]);
    const passed = { ...job, passed: ["power", "isolation"] };
    expect(withPending(passed, steps).closed).toEqual(["isolation"]);
    expect(withPending({ ...passed, done: ["open:cover", "test", "isolate"] }, []).closed).toEqual([]);
  });

  it("counts once what the server's answer holds and the outbox has not let go of yet", () => {
    const sent = entry("step", { step: "open:cover", captive: { long: false } });
    const journal = [{ key: sent.key, kind: "step" }];
    const tray = [{ ...job.tray[0], out: 4 }];
    const answered = { ...job, done: ["open:cover"], tray, journal } as unknown as Job;
    expect(withPending(answered, [sent])).toEqual(withPending(answered, []));
    const local = withPending(answered, [sent, entry("back")]);
    expect(local.next?.id).toBe("open:cover");
    expect(local.tray[0]?.out).toBe(0);
  });

  it("takes one step back, and puts back what a closing step says", () => {
    expect(withPending(job, [entry("step", { step: "open:cover" }), entry("back")]).done).toEqual([]);
    const open = { ...job, done: ["open:cover", "test", "isolate"], tray: [{ ...job.tray[0], out: 4 }] } as Job;
    const shut = step("close:cover", "closing") as unknown as Job["steps"][number];
    expect(toPutBack(open, shut, open.tray)).toEqual([{ group: "long", count: 4 }]);
    const local = withPending(open, [entry("step", { step: "close:cover", screws: { long: 4 } })]);
    expect(local.tray[0]?.back).toBe(4);
    expect(local.next).toBeNull();
  });

  it("counts what was counted, and leaves captive screws out", () => {
    const first = job.steps[0];
    if (!first) throw new Error("no step");
    expect(looseOut(first, {})).toEqual({ long: 4 });
    expect(looseOut(first, { captive: { long: true } })).toEqual({ long: 3 });
    expect(looseOut(first, { screws: { long: 2 } })).toEqual({ long: 2 });
  });
});

describe("the outbox", () => {
  beforeEach(async () => {
    vi.stubGlobal("localStorage", { getItem: () => "device", setItem: () => undefined });
    await forget(
      7,
      (await pendingOf(7)).map((one) => one.key),
    );
  });

  it("keeps entries in order, by job, until they are sent", async () => {
    const entries = ["one", "two", "three"].map((words) => made(7, "note", { words }));
    for (const one of entries) await keep(one);
    await keep(made(8, "note", { words: "another job" }));
    expect((await pendingOf(7)).map((one) => one.data.words)).toEqual(["one", "two", "three"]);
    await forget(
      7,
      entries.slice(0, 2).map((one) => one.key),
    );
    expect((await pendingOf(7)).map((one) => one.data.words)).toEqual(["three"]);
    expect(await pendingOf(8)).toHaveLength(1);
  });
});
