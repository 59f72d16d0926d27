import { useState } from "react";
import type { Schemas } from "@/api/client";
import { plural } from "@/lib/format";
import { DUTY_NAMES } from "@/lib/words";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { SelectField } from "@/ui/Field";
import { type RegisterLine, useChangeMany } from "./fleet.queries";

type Act = Schemas["BulkIn"]["act"];

export const ACTS: Record<Act, { title: string; label: string; about: string }> = {
  move: { title: "move", label: "Move them", about: "Their parts count at the other site from that day on." },
  duty: { title: "are used otherwise", label: "Change it", about: "From now on; what it was stays on record." },
  plan: {
    title: "are to be retired",
    label: "Plan it",
    about: "The forecast counts them until that day; an empty day takes the plan back.",
  },
  retire: {
    title: "are retired",
    label: "Retire them",
    about: "They leave with what they hold: the lives of their parts end on that day, and nothing failed.",
  },
};

export interface BulkSheetProps {
  act: Act;
  machines: RegisterLine[];
  session: Schemas["SessionState"];
  onDone: (words: string) => void;
  onClose: () => void;
}

/** One change of many machines: all of them, or none, and what stands in the way is said of each. */
export function BulkSheet({ act, machines, session, onDone, onClose }: BulkSheetProps) {
  const [site, setSite] = useState("");
  const [duty, setDuty] = useState<Schemas["RegisterLine"]["duty"]>("office_hours");
  const [on, setOn] = useState(act === "plan" ? "" : session.as_of);
  const change = useChangeMany();
  const words = ACTS[act];
  const count = plural(machines.length, "machine");
  const send = (): void =>
    change.mutate(
      {
        machines: machines.map((machine) => ({ tag: machine.tag, changes: machine.changes })),
        act,
        site,
        duty: act === "duty" ? duty : null,
        on: act === "duty" ? null : on || null,
      },
      { onSuccess: () => onDone(`${count} changed`) },
    );
  return (
    <AskSheet
      title={`${count} ${words.title}`}
      about={`${words.about} All of them or none: ${named(machines)}.`}
      label={words.label}
      sending={change}
      fields={["site", "on"]}
      onSend={send}
      onClose={onClose}
    >
      {(problem) => (
        <>
          {act === "move" && (
            <SelectField label="To" value={site} onChange={(event) => setSite(event.target.value)}>
              <option value="">choose a site</option>
              {session.sites.map((one) => (
                <option key={one.code} value={one.code}>
                  {one.name}
                </option>
              ))}
            </SelectField>
          )}
          {act === "duty" && (
            <SelectField
              label="How they are used"
              value={duty}
              onChange={(event) => setDuty(event.target.value as typeof duty)}
            >
              {Object.entries(DUTY_NAMES).map(([value, name]) => (
                <option key={value} value={value}>
                  {name}
                </option>
              ))}
            </SelectField>
          )}
          {act !== "duty" && <ValueField label="On" type="date" value={on} fault={problem?.at("on")} onValue={setOn} />}
          {problem && problem.faults.length > 1 && (
            <ul className="text-short" aria-label="What stands in the way">
              {problem.faults.map((fault) => (
                <li key={`${fault.field}${fault.message}`}>{fault.message}</li>
              ))}
            </ul>
          )}
        </>
      )}
    </AskSheet>
  );
}

function named(machines: RegisterLine[]): string {
  const tags = machines.slice(0, 6).map((machine) => machine.tag);
  return machines.length > 6 ? `${tags.join(", ")} and ${machines.length - 6} more` : tags.join(", ");
}
