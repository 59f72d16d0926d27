import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "@/api/client";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { SelectField } from "@/ui/Field";
import { type Machine, useDisposeMachine, useQuarantine } from "./machine.queries";

type Gone = Schemas["MachineDisposeIn"]["gone"];
type Data = Schemas["MachineDisposeIn"]["data"];
type Sign = Schemas["JobIn"]["signs"][number];

const GONE: Gone[] = ["recycled", "sold", "returned to its lessor", "given away"];
const DATA: Data[] = ["wiped and checked", "drive destroyed", "drive taken out before", "it had no drive"];

/** A retired machine leaves for good, with what became of the data on its drives. */
export function DisposeSheet({ machine, today, onClose }: { machine: Machine; today: string; onClose: () => void }) {
  const [gone, setGone] = useState<Gone>("recycled");
  const [data, setData] = useState<Data | "">("");
  const [proof, setProof] = useState("");
  const [on, setOn] = useState(today);
  const dispose = useDisposeMachine(machine.tag);
  const send = (): void => {
    if (data) {
      const json = { gone, data, proof, on, expected_changes: machine.number_of_changes };
      dispose.mutate(json, { onSuccess: onClose });
    }
  };
  return (
    <AskSheet
      title={`${machine.tag} leaves for good`}
      about="Packs go by the rules for dangerous goods and local waste law, apart from the machine where those say so. What is said here stays on record."
      label="It is gone"
      sending={dispose}
      fields={["gone", "data", "proof", "on"]}
      onSend={send}
      onClose={onClose}
    >
      {(problem) => (
        <>
          <SelectField label="It is" value={gone} onChange={(event) => setGone(event.target.value as Gone)}>
            {GONE.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </SelectField>
          <SelectField
            label="The data on its drives"
            required
            value={data}
            fault={problem?.at("data")}
            onChange={(event) => setData(event.target.value as Data)}
          >
            <option value="">say what became of it</option>
            {DATA.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </SelectField>
          <ValueField
            label="Certificate, or who took it"
            required
            value={proof}
            fault={problem?.at("proof")}
            onValue={setProof}
          />
          <ValueField label="On" type="date" value={on} fault={problem?.at("on")} onValue={setOn} />
        </>
      )}
    </AskSheet>
  );
}

const SIGNS: { sign: Sign; words: string }[] = [
  { sign: "touchpad", words: "dead touchpad" },
  { sign: "gap", words: "gap in the case" },
  { sign: "lid", words: "lid does not close" },
  { sign: "rocking", words: "rocks on a flat table" },
  { sign: "smell", words: "smell" },
  { sign: "heat", words: "heat" },
];

/** The machine is stopped with what is seen: nobody works on it until a lead decides. */
export function QuarantineSheet({ machine, onClose }: { machine: Machine; onClose: () => void }) {
  const [signs, setSigns] = useState<Sign[]>([]);
  const navigate = useNavigate();
  const stop = useQuarantine();
  const words = SIGNS.filter((one) => signs.includes(one.sign)).map((one) => one.words);
  const send = (): void => {
    if (signs.length === 0) return;
    const job = { ...PLAIN, tag: machine.tag, symptom: words.join(", "), signs };
    stop.mutate(job, { onSuccess: (made) => navigate(`/bench/${made.job_id}`) });
  };
  return (
    <AskSheet
      title={`${machine.tag} is put in quarantine`}
      about="Switch it off, leave the charger out, do not press or open it. Site, officer and what becomes of it are asked next, at the bench."
      label="Stop all work on it"
      sending={stop}
      fields={["signs"]}
      onSend={send}
      onClose={onClose}
    >
      {(problem) => (
        <fieldset>
          <legend className="font-semibold">What is seen</legend>
          {SIGNS.map(({ sign, words: name }) => (
            <label key={sign} className="flex min-h-[28px] items-center gap-2">
              <input
                type="checkbox"
                checked={signs.includes(sign)}
                onChange={(event) =>
                  setSigns(event.target.checked ? [...signs, sign] : signs.filter((one) => one !== sign))
                }
              />
              {name}
            </label>
          ))}
          {problem?.at("signs") && <p className="font-semibold text-short">{problem.at("signs")}</p>}
          {signs.length === 0 && <p className="text-soft">Without a sign there is nothing to stop it for.</p>}
        </fieldset>
      )}
    </AskSheet>
  );
}

const PLAIN = {
  purpose: "repair",
  events: [],
  agreed: "",
  agreed_parts: {},
  confirmed: [],
} satisfies Partial<Schemas["JobIn"]>;
