import { type FormEvent, useState } from "react";
import { capital } from "@/lib/format";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import type { Job } from "./local";
import type { Bench } from "./useBench";

const ADVICE: Record<string, [string, string]> = {
  quarantine: ["Quarantine", "text-short"],
  replace: ["Replace it", "text-short"],
  watch: ["Watch it", "text-thin"],
  keep: ["Keep it", "text-covered"],
  unknown: ["Cannot say yet", "text-thin"],
};

/** What becomes of the pack: signs first, then health and cycles, then a run time with its conditions. */
export function PackPane({ job, bench }: { job: Job; bench: Bench }) {
  const [open, setOpen] = useState(false);
  const pack = job.said.pack;
  const [words, look] = ADVICE[pack?.advice ?? "unknown"] ?? ["Cannot say yet", ""];
  return (
    <section className="mt-4" aria-label="The pack">
      <h2 className="border-b border-ink text-[1.2rem]">The pack</h2>
      <p>
        <strong className={look}>{words}.</strong>{" "}
        {pack
          ? `${pack.why.map(capital).join(". ")}.`
          : "Nothing is known to judge it by: look at it, then take the machine's report."}
      </p>
      {open ? (
        <RunTime bench={bench} onClose={() => setOpen(false)} />
      ) : (
        <button type="button" className="min-h-[25px] text-accent underline" onClick={() => setOpen(true)}>
          Write a run time down
        </button>
      )}
    </section>
  );
}

function RunTime({ bench, onClose }: { bench: Bench; onClose: () => void }) {
  const [minutes, setMinutes] = useState("");
  const [from, setFrom] = useState("100");
  const [to, setTo] = useState("");
  const [draw, setDraw] = useState("");
  const [conditions, setConditions] = useState("");
  const [fault, setFault] = useState("");
  const send = (event: FormEvent): void => {
    event.preventDefault();
    if (!conditions.trim()) {
      setFault("A run time counts only with its conditions.");
      return;
    }
    const figure = (text: string): number => Number(text.trim().replace(",", "."));
    void bench
      .write("run_time", {
        minutes: figure(minutes),
        from_percent: figure(from),
        to_percent: to.trim() ? figure(to) : null,
        draw_w: draw.trim() ? figure(draw) : null,
        conditions,
      })
      .then(onClose);
  };
  return (
    <form className="mt-1 grid gap-2" onSubmit={send}>
      <div className="grid grid-cols-4 gap-2 max-[700px]:grid-cols-2">
        <TextField
          label="Ran, min"
          inputMode="decimal"
          value={minutes}
          onChange={(event) => setMinutes(event.target.value)}
        />
        <TextField label="From, %" inputMode="decimal" value={from} onChange={(event) => setFrom(event.target.value)} />
        <TextField label="To, %" inputMode="decimal" value={to} onChange={(event) => setTo(event.target.value)} />
        <TextField label="Drew, W" inputMode="decimal" value={draw} onChange={(event) => setDraw(event.target.value)} />
      </div>
      <TextField
        label="Under which conditions"
        hint="What ran, and how bright the screen was: a run time counts only with them."
        placeholder="a film, screen at half, radio on"
        fault={fault || undefined}
        value={conditions}
        onChange={(event) => setConditions(event.target.value)}
      />
      <Button type="submit" className="justify-self-start">
        Keep the run time
      </Button>
    </form>
  );
}
