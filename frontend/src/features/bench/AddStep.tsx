import { useState } from "react";
import { isProblem } from "@/api/client";
import { TextField } from "@/ui/Field";
import { TouchButton, TouchToggle } from "@/ui/Touch";
import { Faults } from "./Approvals";
import { useAddStep, useAsset } from "./bench.queries";
import type { Job } from "./local";
import type { Bench } from "./useBench";

const NOTHING = { text: "", tool: "", fasteners: "", leads: "" };

/** Where nobody described the way in, its next step is typed before it is done: gates, trays and leads follow from it. */
export function AddStep({ job, bench }: { job: Job; bench: Bench }) {
  const [typed, setTyped] = useState(NOTHING);
  const [frees, setFrees] = useState<string[]>([]);
  const [when, setWhen] = useState<"live" | "isolates" | "outside" | null>(null);
  const asset = useAsset(job.tag);
  const add = useAddStep(job.id);
  const problem = isProblem(add.error) ? add.error : null;
  const elsewhere = problem && !problem.at("text") && !problem.at("fasteners");
  const field = (name: keyof typeof NOTHING) => ({
    className: "min-h-[48px]",
    value: typed[name],
    fault: problem?.at(name),
    onChange: (event: { target: { value: string } }) => setTyped({ ...typed, [name]: event.target.value }),
  });
  const send = (): void =>
    add.mutate(
      {
        device: bench.device,
        text: typed.text,
        tool: typed.tool,
        fasteners: typed.fasteners,
        leads: typed.leads.split(",").flatMap((name) => name.trim() || []),
        frees,
        live: when === "live",
        isolates: when === "isolates",
        outside: when === "outside",
      },
      {
        onSuccess: () => {
          setTyped(NOTHING);
          setFrees([]);
          setWhen(null);
        },
      },
    );
  const wanted = (asset.data?.positions ?? []).filter(
    (entry) => job.wanted.includes(entry.key) || frees.includes(entry.key),
  );
  const others = (asset.data?.positions ?? []).filter((entry) => !wanted.includes(entry));
  return (
    <section aria-label="The next step of the way in" className="mb-5 border-2 border-rule bg-leaf p-4">
      <h2 className="text-[1.6rem]">
        {job.steps.length === 0 ? "The first step of the way in" : "The next step of the way in"}
      </h2>
      <p className="text-soft">
        Nobody has described this model. Type each step before you do it; the same gates stand before it, and what comes
        out is counted back in. At the end it is offered as the draft of its page.
      </p>
      <form
        className="mt-3 grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          send();
        }}
      >
        <TextField label="What is done" placeholder="lift the base cover" {...field("text")} />
        <div className="grid grid-cols-[minmax(0,2fr)_minmax(0,1fr)] gap-3">
          <TextField
            label="Screws and clips, in short"
            placeholder="3x PH1 M2.5x8, 5x PH1 M2.5x4 captive"
            {...field("fasteners")}
          />
          <TextField label="Tool" placeholder="PH1" {...field("tool")} />
        </div>
        <TextField
          label="Leads that come off, apart by commas"
          placeholder="battery lead, fan lead"
          {...field("leads")}
        />
        <fieldset>
          <legend className="font-semibold">What comes out with it</legend>
          <div className="mt-1 flex flex-wrap gap-2">
            {[...wanted, ...others].map((entry) => (
              <TouchToggle
                key={entry.key}
                on={frees.includes(entry.key)}
                onChange={(on) => setFrees(on ? [...frees, entry.key] : frees.filter((key) => key !== entry.key))}
              >
                {entry.label}
              </TouchToggle>
            ))}
          </div>
        </fieldset>
        <fieldset>
          <legend className="font-semibold">Power</legend>
          <div className="mt-1 flex flex-wrap gap-2">
            {POWER.map(([key, words]) => (
              <TouchToggle key={key} on={when === key} onChange={(on) => setWhen(on ? key : null)}>
                {words}
              </TouchToggle>
            ))}
          </div>
        </fieldset>
        {elsewhere && <Faults error={add.error} />}
        <TouchButton type="submit" look="main" className="justify-self-start" disabled={add.isPending}>
          Add this step
        </TouchButton>
      </form>
    </section>
  );
}

const POWER = [
  ["isolates", "this step cuts the power inside"],
  ["live", "it comes before the power can be cut"],
  ["outside", "nothing inside is reached"],
] as const;
