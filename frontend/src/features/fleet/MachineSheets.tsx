import { useState } from "react";
import type { Schemas } from "@/api/client";
import { day } from "@/lib/format";
import { DUTY_NAMES } from "@/lib/words";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { SelectField } from "@/ui/Field";
import { type Machine, useEditMachine, useMoveMachine, useReinstateMachine, useRetireMachine } from "./machine.queries";

export interface MachineSheetProps {
  machine: Machine;
  onClose: () => void;
}

/** Serial, use, and the day it is to be retired. */
export function EditSheet({ machine, onClose }: MachineSheetProps) {
  const [fields, setFields] = useState(machine.fields);
  const edit = useEditMachine(machine.tag);
  return (
    <AskSheet
      title={machine.tag}
      about="What is changed holds from now on; what it was stays on record."
      label="Change it"
      sending={edit}
      fields={["serial", "duty", "retire_planned_on"]}
      onSend={() => edit.mutate({ fields, expected_changes: machine.number_of_changes }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <>
          <ValueField
            label="Serial number"
            value={fields.serial ?? ""}
            fault={problem?.at("serial") ?? undefined}
            onValue={(serial) => setFields({ ...fields, serial: serial || null })}
          />
          <SelectField
            label="How it is used"
            value={fields.duty}
            onChange={(event) => setFields({ ...fields, duty: event.target.value as typeof fields.duty })}
          >
            {Object.entries(DUTY_NAMES).map(([duty, name]) => (
              <option key={duty} value={duty}>
                {name}
              </option>
            ))}
          </SelectField>
          <ValueField
            label="To be retired on"
            type="date"
            hint="Empty: not planned."
            value={fields.retire_planned_on ?? ""}
            fault={problem?.at("retire_planned_on") ?? undefined}
            onValue={(on) => setFields({ ...fields, retire_planned_on: on || null })}
          />
        </>
      )}
    </AskSheet>
  );
}

/** It stands at another site from a day on. */
export function MoveSheet({ machine, session, onClose }: MachineSheetProps & { session: Schemas["SessionState"] }) {
  const [site, setSite] = useState("");
  const [on, setOn] = useState(session.as_of);
  const move = useMoveMachine(machine.tag);
  return (
    <AskSheet
      title={`${machine.tag} moves`}
      about="Its parts count at the other site from that day on; who asks for one asks there."
      label="Move it"
      sending={move}
      fields={["site", "on"]}
      onSend={() => move.mutate({ site, on, expected_changes: machine.number_of_changes }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <>
          <SelectField
            label="To"
            value={site}
            fault={problem?.at("site") ?? undefined}
            onChange={(event) => setSite(event.target.value)}
          >
            <option value="">choose a site</option>
            {session.sites
              .filter((one) => one.code !== machine.site)
              .map((one) => (
                <option key={one.code} value={one.code}>
                  {one.name}
                </option>
              ))}
          </SelectField>
          <ValueField label="On" type="date" value={on} fault={problem?.at("on") ?? undefined} onValue={setOn} />
        </>
      )}
    </AskSheet>
  );
}

/** It leaves with what it holds. */
export function RetireSheet({ machine, today, onClose }: MachineSheetProps & { today: string }) {
  const [on, setOn] = useState(today);
  const retire = useRetireMachine(machine.tag);
  return (
    <AskSheet
      title={`${machine.tag} is retired`}
      about="It leaves with what it holds: the lives of its parts end on that day, and nothing failed."
      label="Retire it"
      sending={retire}
      fields={["on"]}
      onSend={() => retire.mutate({ on, expected_changes: machine.number_of_changes }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <ValueField label="On" type="date" value={on} fault={problem?.at("on") ?? undefined} onValue={setOn} />
      )}
    </AskSheet>
  );
}

/** Its retirement was a mistake. */
export function ReturnSheet({ machine, onClose }: MachineSheetProps) {
  const back = useReinstateMachine(machine.tag);
  return (
    <AskSheet
      title={`${machine.tag} never left`}
      about={`Its retirement on ${machine.retired_on ? day(machine.retired_on) : ""} was a mistake: it stands where it stood, and what it held is in it.`}
      label="Take the retirement back"
      sending={back}
      fields={[]}
      onSend={() => back.mutate({ expected_changes: machine.number_of_changes }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {() => null}
    </AskSheet>
  );
}
