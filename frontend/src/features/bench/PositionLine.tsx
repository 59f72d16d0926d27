import type { ReactNode } from "react";
import type { Problem } from "@/api/client";
import { FINDING_NAMES, FINDINGS } from "@/lib/words";
import { SelectField, TextField } from "@/ui/Field";
import type { CloseIn } from "./bench.queries";
import type { Job } from "./local";

export type Line = NonNullable<CloseIn["lines"]>[number];
export type Swap = Job["swaps"][number];

const BUCKETS = [
  ["", "as the finding says"],
  ["harvested", "harvested stock"],
  ["quarantine", "quarantine"],
  ["returned", "back to the supplier"],
  ["scrapped", "scrapped"],
] as const;
const TESTED = ["good", "worn"] as const;

interface LineProps {
  line: Line;
  swap: Swap | undefined;
  place: number;
  several: boolean;
  problem: Problem | null;
  correction: ReactNode;
  onChange: (fields: Partial<Line>) => void;
}

/** One position of the closing: where the new part came from, where the old one goes. */
export function PositionLine({ line, swap, place, several, problem, correction, onChange }: LineProps) {
  const fault = (field: string): string | undefined => problem?.at(`lines.${place}.${field}`);
  const removed = line.action !== "kept" && swap?.held;
  const what =
    line.action === "kept" ? "the old part stayed" : `${line.part_number} in place of ${swap?.held ?? "nothing"}`;
  return (
    <fieldset className="grid gap-3 border-t border-rule pt-2">
      <legend className="font-semibold">
        {swap?.label ?? line.position}: {what}
      </legend>
      {correction}
      <div className="grid grid-cols-2 gap-3 max-[700px]:grid-cols-1">
        {line.action === "replaced" && (
          <Source line={line} swap={swap} fault={fault("source") ?? fault("shelf_site")} onChange={onChange} />
        )}
        {removed && <Destination line={line} fault={fault("removed_to")} onChange={onChange} />}
      </div>
      {several && (
        <SelectField
          label="Finding of this part"
          className="min-h-[48px]"
          hint="One bad module of a pair is one failure: the other one was good."
          value={line.finding ?? ""}
          onChange={(event) => onChange({ finding: FINDINGS.find((name) => name === event.target.value) ?? null })}
        >
          <option value="">as the whole job</option>
          {FINDINGS.map((name) => (
            <option key={name} value={name}>
              {FINDING_NAMES[name]}
            </option>
          ))}
        </SelectField>
      )}
      {line.removed_to === "harvested" && <Tested line={line} onChange={onChange} />}
      {removed && swap?.kind === "ssd" && (
        <TextField
          label="Custody of the removed drive: where is it, who has it?"
          className="min-h-[48px]"
          fault={fault("custody")}
          value={line.custody ?? ""}
          onChange={(event) => onChange({ custody: event.target.value })}
        />
      )}
    </fieldset>
  );
}

interface FieldProps {
  line: Line;
  fault?: string | undefined;
  onChange: (fields: Partial<Line>) => void;
}

function Source({ line, swap, fault, onChange }: FieldProps & { swap: Swap | undefined }) {
  const stock = Object.entries(swap?.fits.find((entry) => entry.part_number === line.part_number)?.on_hand ?? {});
  return (
    <SelectField
      label="Taken from"
      className="min-h-[48px]"
      fault={fault}
      value={`${line.source}:${line.shelf_site ?? ""}`}
      onChange={(event) => {
        const [source, site] = event.target.value.split(":");
        onChange({ source: source === "harvested" ? "harvested" : "on_hand", shelf_site: site ?? "" });
      }}
    >
      {stock.map(([site, count]) => (
        <option key={site} value={`on_hand:${site}`}>
          shelf {site}, {count} on hand
        </option>
      ))}
      {stock.length === 0 && <option value={`on_hand:${line.shelf_site ?? ""}`}>no shelf holds it</option>}
      {swap?.kind !== "battery" && (
        <option value={`harvested:${line.shelf_site ?? ""}`}>
          recovered and tested, {line.shelf_site ?? "this site"}
        </option>
      )}
    </SelectField>
  );
}

function Destination({ line, fault, onChange }: FieldProps) {
  return (
    <SelectField
      label="The old part goes to"
      className="min-h-[48px]"
      fault={fault}
      value={line.removed_to ?? ""}
      onChange={(event) => {
        const bucket = BUCKETS.find(([key]) => key === event.target.value)?.[0] || null;
        onChange({ removed_to: bucket, tested: bucket === "harvested" ? (line.tested ?? null) : null });
      }}
    >
      {BUCKETS.map(([key, words]) => (
        <option key={key} value={key}>
          {words}
        </option>
      ))}
    </SelectField>
  );
}

function Tested({ line, onChange }: FieldProps) {
  return (
    <SelectField
      label="Its test said"
      className="min-h-[48px]"
      hint="A recovered part is stock only after its test."
      value={line.tested ?? ""}
      onChange={(event) => onChange({ tested: TESTED.find((name) => name === event.target.value) ?? null })}
    >
      <option value="">not tested yet</option>
      <option value="good">good</option>
      <option value="worn">good, with wear</option>
    </SelectField>
  );
}
