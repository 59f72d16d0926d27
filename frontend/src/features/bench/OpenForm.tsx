import { useState } from "react";
import { useNavigate } from "react-router";
import { isProblem, type Schemas } from "@/api/client";
import { day } from "@/lib/format";
import { NARROW } from "@/lib/narrow";
import { DUTY_NAMES, KIND_NAMES } from "@/lib/words";
import { Button } from "@/ui/Button";
import { SelectField, TextArea, TextField } from "@/ui/Field";
import { type JobIn, useAsset, useOpenJob } from "./bench.queries";
import { Scanner } from "./Scanner";

type Card = Schemas["AssetCard"];
type Purpose = NonNullable<JobIn["purpose"]>;

const WHY: readonly (readonly [Purpose, string])[] = [
  ["repair", "Repair: something does not work"],
  ["upgrade", "Upgrade: more memory, a larger drive"],
  ["preventive", "Planned swap: before it fails"],
  ["survey", "Survey: look inside and write the page"],
];

/** Opening a job: the tag first, typed or scanned, then the complaint and the parts, if they are known. */
export function OpenForm({
  session,
  tag: given,
  targets,
}: {
  session: Schemas["SessionState"];
  tag: string;
  targets: string[];
}) {
  const [typed, setTyped] = useState(given);
  const [tag, setTag] = useState(given);
  const asset = useAsset(tag);
  const missing = isProblem(asset.error) ? asset.error.detail : undefined;
  if (session.user?.role === "reader") {
    return <p className="p-5 text-soft">Jobs are opened by technicians and leads. You can read every record here.</p>;
  }
  return (
    <section className="p-4">
      <h2 className="text-[1.4rem]">Open a job</h2>
      <form
        className="mt-3 flex items-end gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          setTag(typed.trim());
        }}
      >
        <div className="w-[220px]">
          <TextField
            label="Asset tag, typed or scanned"
            className="code"
            value={typed}
            // On a phone the day comes first: the field takes the focus where it was asked for.
            autoFocus={given !== "" || !window.matchMedia(NARROW).matches}
            onChange={(event) => setTyped(event.target.value)}
            onBlur={() => setTag(typed.trim())}
            placeholder="SK-0417"
            fault={tag && tag === typed.trim() ? missing : undefined}
          />
        </div>
        {asset.data && (
          <p className="pb-1">
            <strong>{asset.data.model}</strong>
            <span className="block text-[0.93rem] text-soft">
              {asset.data.site ?? "at no site"}, {DUTY_NAMES[asset.data.duty]}, in service since{" "}
              {day(asset.data.in_service_on)}
            </span>
          </p>
        )}
      </form>
      <div className="mt-2">
        <Scanner job={null} />
      </div>
      {asset.data && <JobForm key={asset.data.tag} card={asset.data} targets={targets} />}
    </section>
  );
}

/** The kind of a position, where its name does not say it. */
const kindWords = (entry: Card["positions"][number]): string => {
  const name = KIND_NAMES[entry.kind] ?? "";
  return entry.kind === "other" || entry.label.toLowerCase().includes(name.toLowerCase()) ? "" : name;
};

function JobForm({ card, targets }: { card: Card; targets: string[] }) {
  const [purpose, setPurpose] = useState<Purpose>("repair");
  const [symptom, setSymptom] = useState("");
  const [events, setEvents] = useState<("drop" | "spill")[]>([]);
  const [chosen, setChosen] = useState(targets.filter((key) => card.positions.some((entry) => entry.key === key)));
  const [agreed, setAgreed] = useState("");
  const [agreedParts, setAgreedParts] = useState<Record<string, string>>({});
  const [packOut, setPackOut] = useState(false);
  const [remote, setRemote] = useState(false);
  const [powered, setPowered] = useState(false);
  const [signs, setSigns] = useState<Sign[] | null>(null);
  const open = useOpenJob();
  const navigate = useNavigate();
  const problem = isProblem(open.error) ? open.error : null;
  const send = (confirmed: "second_job"[], plain = false): void =>
    open.mutate(
      {
        tag: card.tag,
        purpose,
        symptom,
        events,
        targets: chosen,
        direct: [],
        include: [],
        lift_pack_out: packOut,
        test_first: null,
        remote,
        plain,
        powered,
        agreed,
        agreed_parts: Object.fromEntries(chosen.map((key) => [key, agreedParts[key] ?? ""])),
        signs: signs ?? [],
        confirmed,
      },
      {
        onSuccess: (job) =>
          void navigate(chosen.length || seen ? `/bench/${job.job_id}/run` : `/bench/${job.job_id}/diagnose`),
      },
    );
  const seen = (signs?.length ?? 0) > 0;
  const toggle = <Item,>(items: Item[], item: Item): Item[] =>
    items.includes(item) ? items.filter((other) => other !== item) : [...items, item];
  return (
    <form
      className="mt-4 grid max-w-[760px] gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        send([]);
      }}
      noValidate
    >
      <div className="grid grid-cols-2 gap-3">
        <SelectField
          label="Why"
          value={purpose}
          onChange={(event) => setPurpose(WHY.find(([key]) => key === event.target.value)?.[0] ?? "repair")}
        >
          {WHY.map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </SelectField>
        <TextField
          label={purpose === "repair" ? "What was noticed" : "What is wanted"}
          placeholder={purpose === "repair" ? "loud after an hour" : "32 GB in all"}
          fault={problem?.at("symptom")}
          value={symptom}
          onChange={(event) => setSymptom(event.target.value)}
        />
      </div>
      <fieldset className="flex gap-5">
        <legend className="font-semibold">Before it began</legend>
        {(["drop", "spill"] as const).map((name) => (
          <label key={name} className="flex min-h-[26px] items-center gap-1.5">
            <input type="checkbox" checked={events.includes(name)} onChange={() => setEvents(toggle(events, name))} />
            it was {name === "drop" ? "dropped" : "spilled on"}
          </label>
        ))}
      </fieldset>
      <Intake card={card} signs={signs} onSigns={setSigns} />
      <fieldset>
        <legend className="font-semibold">Parts to reach</legend>
        <p className="text-soft">
          Leave all open to diagnose it first: trivial causes, then the test worth most a minute.
        </p>
        <div className="mt-1 grid grid-cols-2 gap-x-5">
          {card.positions.map((entry) => (
            <label key={entry.key} className="flex items-baseline gap-1.5 border-b border-dotted border-rule py-1">
              <input
                type="checkbox"
                checked={chosen.includes(entry.key)}
                onChange={() => setChosen(toggle(chosen, entry.key))}
              />
              <span className="min-w-0 flex-1">
                {entry.label} <span className="text-soft">{kindWords(entry)}</span>
              </span>
              <span className="code text-soft">{entry.part_number ?? ""}</span>
            </label>
          ))}
        </div>
        {problem?.at("targets") && (
          <div role="alert" className="mt-1 border-l-4 border-thin bg-pick p-3">
            <p className="font-semibold">{problem.at("targets")}</p>
            <p>A machine that nobody described can be repaired all the same: its steps are typed as they are done.</p>
            <Button className="mt-2" onClick={() => send([], true)}>
              Type the way in at the bench
            </Button>
          </div>
        )}
      </fieldset>
      {purpose !== "survey" && chosen.length > 0 && (
        <div className="grid grid-cols-2 gap-3 max-[700px]:grid-cols-1">
          {card.positions
            .filter((entry) => chosen.includes(entry.key))
            .map((entry) => (
              <TextField
                key={entry.key}
                label={`Agreed part, ${entry.label}`}
                hint={
                  purpose === "upgrade"
                    ? "The machine has to report it in the end."
                    : "Left empty: the same again. The machine has to report it in the end."
                }
                placeholder={purpose === "upgrade" ? "" : (entry.part_number ?? "")}
                fault={problem?.at(`agreed_parts.${entry.key}`)}
                value={agreedParts[entry.key] ?? ""}
                onChange={(event) => setAgreedParts({ ...agreedParts, [entry.key]: event.target.value })}
              />
            ))}
        </div>
      )}
      <TextArea
        label="What was agreed with the owner"
        rows={2}
        hint="Only this is done; anything else asks for a reason."
        value={agreed}
        onChange={(event) => setAgreed(event.target.value)}
      />
      <div className="flex flex-wrap gap-x-6">
        <label className="flex min-h-[26px] items-center gap-1.5">
          <input type="checkbox" checked={packOut} onChange={() => setPackOut(!packOut)} />
          lift the pack out before other work
        </label>
        <label className="flex min-h-[26px] items-center gap-1.5">
          <input type="checkbox" checked={powered} onChange={() => setPowered(!powered)} />
          the short way: the pack stays connected, a lead waives the isolation
        </label>
        <label className="flex min-h-[26px] items-center gap-1.5">
          <input type="checkbox" checked={remote} onChange={() => setRemote(!remote)} />
          done by its user, with help from afar
        </label>
      </div>
      {problem?.question === "second_job" && (
        <div role="alert" className="border-l-4 border-thin bg-pick p-3">
          <p>{problem.detail}</p>
          <Button className="mt-2" onClick={() => send(["second_job"])}>
            Yes, open a second job
          </Button>
        </div>
      )}
      {problem && problem.question !== "second_job" && !problem.at("symptom") && !problem.at("targets") && (
        <div role="alert" className="font-semibold text-short">
          <ul>
            {(problem.faults.length ? problem.faults.map((fault) => fault.message) : [problem.detail]).map((words) => (
              <li key={words}>{words}</li>
            ))}
          </ul>
        </div>
      )}
      {signs === null && (
        <p className="text-thin">Before it opens: say what you see, or that you looked and saw none.</p>
      )}
      <Button type="submit" look="main" className="justify-self-start" disabled={open.isPending || signs === null}>
        {seen
          ? "Record it: the job opens stopped"
          : chosen.length
            ? "Open the job and go to the bench"
            : "Open the job and diagnose it"}
      </Button>
    </form>
  );
}

type Sign = JobIn["signs"][number];

const PACK_SIGNS: readonly (readonly [Sign, string])[] = [
  ["touchpad", "the touchpad is dead or lifted"],
  ["gap", "a gap in the case"],
  ["lid", "the lid does not close"],
  ["rocking", "it rocks on a flat table"],
  ["smell", "it smells"],
  ["heat", "it is hot"],
];
const MAINS_SIGNS: readonly (readonly [Sign, string])[] = [
  ["no_power", "no power"],
  ["noise", "a noise"],
  ["smell", "a smell"],
];

/** What is looked at before the first screw. Nothing seen is an answer that somebody gives; silence is none. */
function Intake({
  card,
  signs,
  onSigns,
}: {
  card: Card;
  signs: Sign[] | null;
  onSigns: (signs: Sign[] | null) => void;
}) {
  const asked = ["all_in_one", "mini_pc"].includes(card.form) ? MAINS_SIGNS : PACK_SIGNS;
  const toggle = (sign: Sign, on: boolean): void => {
    const kept = (signs ?? []).filter((other) => other !== sign);
    const now = on ? [...kept, sign] : kept;
    onSigns(now.length ? now : null);
  };
  return (
    <fieldset>
      <legend className="font-semibold">Look at it first, closed: what do you see?</legend>
      <div className="flex flex-wrap gap-x-5 gap-y-1">
        {asked.map(([sign, words]) => (
          <label key={sign} className="flex min-h-[26px] items-center gap-1.5">
            <input
              type="checkbox"
              checked={signs?.includes(sign) ?? false}
              onChange={(event) => toggle(sign, event.target.checked)}
            />
            {words}
          </label>
        ))}
        <label className="flex min-h-[26px] items-center gap-1.5 font-semibold">
          <input
            type="checkbox"
            checked={signs?.length === 0}
            onChange={(event) => onSigns(event.target.checked ? [] : null)}
          />
          looked, none of these
        </label>
      </div>
      {(signs?.length ?? 0) > 0 && (
        <p role="alert" className="font-semibold text-short">
          {asked === PACK_SIGNS
            ? "A pack may be swelling: the job stops before the first screw. Hands off, call the fire and safety officer."
            : "With mains inside this is licensed work: nothing is opened, only socket and lead are checked from outside."}
        </p>
      )}
    </fieldset>
  );
}
