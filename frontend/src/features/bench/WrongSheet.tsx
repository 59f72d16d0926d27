import { type ReactNode, useState } from "react";
import { isProblem, sendPhoto } from "@/api/client";
import { MachineNotes } from "@/shared/MachineNotes";
import { Button } from "@/ui/Button";
import { TextArea, TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { TouchButton, TouchToggle } from "@/ui/Touch";
import { useLook } from "./bench.queries";
import type { Job, LocalJob, Step } from "./local";
import { MoreTargets } from "./MoreTargets";
import { ScrewForm } from "./ScrewForm";
import type { Bench } from "./useBench";

type Way = "lift" | "note" | "park" | "danger" | "screw" | "more" | "power" | "wait";

export interface WrongProps {
  job: Job;
  local: LocalJob;
  step: Step | null;
  bench: Bench;
  first?: Way | null;
  onClose: () => void;
}

/** "Something is wrong": looking before force, a photo, parking, or the stop for a dangerous pack. */
export function WrongSheet({ job, local, step, bench, first = null, onClose }: WrongProps) {
  const [way, setWay] = useState<Way | null>(first);
  const ways: [Way, string][] = [
    ...(step?.operation ? ([["lift", "It will not lift or come loose"]] as [Way, string][]) : []),
    ["danger", "The pack is swollen, dented, hot, leaking or smells"],
    ["screw", "A screw does not come back"],
    ["note", "Write a note, add a photo"],
    ["power", "The machine came on"],
    ["more", "Another part is to be reached as well"],
    ["wait", "It has to wait for a part, approval or data sign-off"],
    ["park", "Park the job"],
  ];
  return (
    <Sheet open onClose={onClose} title="Something is wrong" wide about="Look first; force never rises between looks.">
      <div className="text-[18px]">
        {way === null && (
          <div className="grid gap-2">
            {ways.map(([key, words]) => (
              <TouchButton key={key} look={key === "danger" ? "danger" : "plain"} onClick={() => setWay(key)}>
                {words}
              </TouchButton>
            ))}
          </div>
        )}
        {way === "lift" && step?.operation && (
          <Looks model={job.model_id} operation={step.operation} onPark={() => setWay("park")} onClose={onClose} />
        )}
        {way === "danger" && <Danger bench={bench} onClose={onClose} />}
        {way === "screw" && <ScrewForm job={job} local={local} bench={bench} onClose={onClose} />}
        {way === "note" && <NoteForm job={job} bench={bench} onClose={onClose} />}
        {way === "power" && (
          <Ask
            words="The machine had power. Power and isolation are asked again before the next step."
            act="Yes, it came on"
            onAct={() => void bench.write("power_on", {}).then(onClose)}
          />
        )}
        {way === "more" && <MoreTargets job={job} bench={bench} onClose={onClose} />}
        {way === "wait" && <WaitForm bench={bench} onClose={onClose} />}
        {way === "park" && <ParkForm local={local} bench={bench} onClose={onClose} />}
      </div>
    </Sheet>
  );
}

function Ask({ words, act, onAct }: { words: ReactNode; act: string; onAct: () => void }) {
  return (
    <div className="grid gap-3">
      <p>{words}</p>
      <TouchButton look="main" onClick={onAct}>
        {act}
      </TouchButton>
    </div>
  );
}

interface LooksProps {
  model: number;
  operation: string;
  onPark: () => void;
  onClose: () => void;
}

function Looks({ model, operation, onPark, onClose }: LooksProps) {
  const [looked, setLooked] = useState<string[]>([]);
  const look = useLook(model, operation, looked);
  if (!look.data) return <p className="text-soft">Reading the page…</p>;
  const stop = look.data.id === "stop";
  return (
    <div role="status" className="grid gap-3">
      <p>
        <strong>{look.data.what}.</strong> {look.data.why}
      </p>
      <div className="flex flex-wrap gap-3">
        {!stop && (
          <TouchButton onClick={() => setLooked([...looked, look.data.id])}>Looked, it is not that</TouchButton>
        )}
        {stop && <TouchButton onClick={onPark}>Park the job</TouchButton>}
        <TouchButton look="main" onClick={onClose}>
          It came off
        </TouchButton>
      </div>
    </div>
  );
}

const SIGNS = ["swollen", "dented", "hot", "leaking", "smelling"] as const;

function Danger({ bench, onClose }: { bench: Bench; onClose: () => void }) {
  const [signs, setSigns] = useState<string[]>([]);
  return (
    <div className="grid gap-2">
      <p className="font-semibold text-short">
        Hands off: no pressing, prying, charging or closing. Move away if it is hot or leaking, and call the site's fire
        and safety officer.
      </p>
      {SIGNS.map((sign) => (
        <TouchToggle
          key={sign}
          on={signs.includes(sign)}
          onChange={(on) => setSigns(on ? [...signs, sign] : signs.filter((other) => other !== sign))}
        >
          {sign}
        </TouchToggle>
      ))}
      <TouchButton
        look="danger"
        disabled={signs.length === 0}
        onClick={() => void bench.write("danger", { signs }).then(onClose)}
      >
        Stop this job
      </TouchButton>
    </div>
  );
}

function NoteForm({ job, bench, onClose }: { job: Job; bench: Bench; onClose: () => void }) {
  const [words, setWords] = useState("");
  const [file, setFile] = useState<File | null>(null);
  const [fault, setFault] = useState("");
  const [stays, setStays] = useState(false);
  const send = async (): Promise<void> => {
    try {
      const photo = file ? (await sendPhoto(file)).digest : undefined;
      await bench.write("note", { words, ...(photo ? { photo } : {}), ...(stays ? { stays } : {}) });
      onClose();
    } catch (error) {
      if (!isProblem(error)) throw error;
      setFault(error.detail);
    }
  };
  return (
    <form
      className="grid gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
    >
      <MachineNotes
        notes={job.said.notes}
        onMended={(note) => void bench.write("note", { words: `mended: ${note.words}`, mends: note.key }).then(onClose)}
      />
      <TextArea label="What you see" rows={3} value={words} onChange={(event) => setWords(event.target.value)} />
      <TextField
        label="Photo, PNG or JPEG"
        type="file"
        accept="image/png,image/jpeg"
        fault={fault || undefined}
        onChange={(event) => setFile(event.target.files?.[0] ?? null)}
      />
      <TouchToggle on={stays} onChange={setStays}>
        It stays with the machine: a cracked post, a missing pad
      </TouchToggle>
      <TouchButton type="submit" look="main" disabled={!words.trim() && !file}>
        Keep it with the {stays ? "machine" : "job"}
      </TouchButton>
    </form>
  );
}

function WaitForm({ bench, onClose }: { bench: Bench; onClose: () => void }) {
  const [part, setPart] = useState("");
  return (
    <div className="grid gap-2">
      <p>The job waits, nothing is out of sight: it stays in the index with what it waits for.</p>
      <TextField
        label="Number of the part it waits for"
        hint="It is kept where one lies free, and waited for in turn where none does. Empty: nobody knows yet."
        className="code"
        value={part}
        onChange={(event) => setPart(event.target.value)}
      />
      {["part", "approval", "data sign-off"].map((what) => (
        <TouchButton
          key={what}
          onClick={() =>
            void bench
              .write("wait", { for: what, ...(what === "part" && part.trim() ? { part_number: part.trim() } : {}) })
              .then((taken) => taken && onClose())
          }
        >
          For {what === "data sign-off" ? "a data sign-off" : what === "part" ? "a part" : "approval"}
        </TouchButton>
      ))}
    </div>
  );
}

function ParkForm({ local, bench, onClose }: { local: LocalJob; bench: Bench; onClose: () => void }) {
  const [words, setWords] = useState("");
  const [where, setWhere] = useState("");
  const [isolated, setIsolated] = useState<boolean | null>(null);
  const out = local.tray.filter((group) => group.out > group.back);
  return (
    <form
      className="grid gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void bench.write("park", { words, screws_where: where, isolated }).then((taken) => taken && onClose());
      }}
    >
      <TextField label="Why it is parked" value={words} onChange={(event) => setWords(event.target.value)} />
      {out.length > 0 && (
        <TextField
          label="Where the screws are: box and compartment"
          hint={`Out: ${out.map((group) => `${group.out - group.back} × ${group.group}`).join(", ")}`}
          value={where}
          onChange={(event) => setWhere(event.target.value)}
        />
      )}
      <div className="flex gap-3">
        {([true, false] as const).map((value) => (
          <TouchButton
            key={String(value)}
            aria-pressed={isolated === value}
            className={isolated === value ? "bg-pick!" : ""}
            onClick={() => setIsolated(value)}
          >
            {value ? "It is isolated" : "It is not isolated"}
          </TouchButton>
        ))}
      </div>
      {bench.refused.map((reason) => (
        <p key={reason} role="alert" className="font-semibold text-short">
          {reason}
        </p>
      ))}
      <div className="flex gap-3">
        <TouchButton type="submit" look="main">
          Park the job
        </TouchButton>
        <Button onClick={onClose}>Cancel</Button>
      </div>
    </form>
  );
}
