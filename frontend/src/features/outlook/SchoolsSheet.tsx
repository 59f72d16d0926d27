import { useState } from "react";
import { isProblem, type Schemas } from "@/api/client";
import { KIND_NAMES, SCHOOL_NAMES } from "@/lib/words";
import { Button } from "@/ui/Button";
import { SelectField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { type Outlook, useChangeSetting } from "./outlook.queries";

/** How each kind's failures are forecast: averaged by what the log says, or as the company sets it. */
export function SchoolsSheet({ outlook, onClose }: { outlook: Outlook; onClose: () => void }) {
  return (
    <Sheet
      open
      onClose={onClose}
      title="How failures are forecast"
      about="At one rate, whatever a part's age, or by the ages in service. Left to the log, both are averaged, each with the weight that the kind's failures give it."
    >
      <div className="grid gap-4">
        {outlook.schools.map((school) => (
          <School key={`${school.kind}-${school.number}`} school={school} />
        ))}
      </div>
    </Sheet>
  );
}

function School({ school }: { school: Schemas["KindSchool"] }) {
  const [wanted, setWanted] = useState(school.wanted);
  const change = useChangeSetting();
  const problem = isProblem(change.error) ? change.error : null;
  return (
    <form
      className="grid grid-cols-[minmax(0,1fr)_auto] items-start gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate({
          scope: "kind",
          scope_key: school.kind,
          key: "school",
          value: wanted,
          expected_number: school.number,
        });
      }}
    >
      <SelectField
        label={`${KIND_NAMES[school.kind] ?? school.kind}: ${SCHOOL_NAMES[school.school] ?? school.school}`}
        hint={`${school.reason}.`}
        value={wanted}
        fault={problem?.at("value") ?? problem?.detail}
        onChange={(event) => setWanted(event.target.value)}
      >
        <option value="auto">both, by what the log says</option>
        <option value="constant">one constant rate</option>
        <option value="wear-out">by age</option>
      </SelectField>
      <Button type="submit" className="mt-6" disabled={wanted === school.wanted || change.isPending}>
        {change.isPending ? "Computing" : "Keep"}
      </Button>
    </form>
  );
}
