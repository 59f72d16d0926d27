import { useState } from "react";
import { isProblem, type Schemas } from "@/api/client";
import { day, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { type Change, useGiveUp, useKeep, useKept } from "./scenarios.queries";

export interface KeptProps {
  changes: Change[];
  mayKeep: boolean;
  onOpen: (kept: Schemas["KeptScenario"]) => void;
}

/** Scenarios under their names, for everybody; a lead keeps and gives up. */
export function Kept({ changes, mayKeep, onOpen }: KeptProps) {
  const kept = useKept();
  const giveUp = useGiveUp();
  return (
    <section aria-label="Kept scenarios" className="mt-6">
      <h2 className="border-b border-ink text-[1.2rem]">Kept scenarios</h2>
      {kept.data?.length === 0 && <p className="mt-1 text-soft">None yet.</p>}
      <ul>
        {kept.data?.map((scenario) => (
          <li key={scenario.id} className="flex items-baseline gap-3 border-b border-dotted border-rule py-1">
            <button type="button" className="text-accent underline" onClick={() => onOpen(scenario)}>
              {scenario.name}
            </button>
            <span className="flex-1 text-[0.93rem] text-soft">
              {plural(scenario.changes.length, "change")}, {scenario.author}, {day(scenario.kept_at.slice(0, 10))}
            </span>
            {mayKeep && (
              <button
                type="button"
                className="text-accent underline"
                aria-label={`Give up ${scenario.name}`}
                onClick={() => giveUp.mutate(scenario.id)}
              >
                give up
              </button>
            )}
          </li>
        ))}
      </ul>
      {mayKeep && changes.length > 0 && <KeepForm changes={changes} />}
    </section>
  );
}

function KeepForm({ changes }: { changes: Change[] }) {
  const [name, setName] = useState("");
  const keep = useKeep();
  const problem = isProblem(keep.error) ? keep.error : null;
  return (
    <form
      className="mt-2 flex items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate({ name, changes }, { onSuccess: () => setName("") });
      }}
    >
      <TextField
        label="Keep this one as"
        value={name}
        fault={problem ? (problem.at("name") ?? problem.detail) : undefined}
        onChange={(event) => setName(event.target.value)}
      />
      <Button type="submit" disabled={name.trim() === "" || keep.isPending}>
        Keep
      </Button>
    </form>
  );
}
