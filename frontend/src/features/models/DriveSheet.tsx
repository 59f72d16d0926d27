import { useState } from "react";
import { minutesWords, VERDICT_NAMES } from "@/lib/words";
import { SelectField, TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import type { ModelPageData, PositionDetail } from "./models.queries";
import { useDrive, useFits } from "./models.queries";

export interface DriveSheetProps {
  page: ModelPageData;
  position: PositionDetail;
  onClose: () => void;
}

const ENCRYPTION: Record<string, boolean | null> = { yes: true, no: false, "": null };
const HOW: Record<string, string> = { copy: "copy", shrink: "shrink, then copy", refuse: "does not fit" };

/** The drive planner: the new drive, what it will run at, copy or fresh install, and the minutes. */
export function DriveSheet({ page, position, onClose }: DriveSheetProps) {
  const fits = useFits(page.model_id, position.key);
  const fitted = position.fitted_facts.find((fact) => fact.name === "capacity_gb")?.statements[0]?.value ?? "";
  const [part, setPart] = useState<string | null>(null);
  const [source, setSource] = useState(String(Number.parseFloat(fitted) || 256));
  const [used, setUsed] = useState("120");
  const [encrypted, setEncrypted] = useState("");
  const [failing, setFailing] = useState(false);
  const drives = fits.data?.parts.filter((item) => item.verdict !== "no") ?? [];
  const number = part ?? drives[0]?.part_number ?? "";
  const plan = useDrive(page.model_id, {
    position: position.key,
    part_number: number,
    source_gb: Number(source) || 0,
    used_gb: Number(used) || 0,
    encrypted: ENCRYPTION[encrypted] ?? null,
    failing,
  });
  return (
    <Sheet open onClose={onClose} title="Plan drive" about={`${page.maker} ${page.name}, ${position.label}`}>
      <div className="grid grid-cols-2 gap-3">
        <SelectField label="New drive" value={number} onChange={(event) => setPart(event.target.value)}>
          {drives.map((item) => (
            <option key={item.part_number} value={item.part_number}>
              {item.part_number}, {item.part_name}
            </option>
          ))}
        </SelectField>
        <SelectField label="Encrypted" value={encrypted} onChange={(event) => setEncrypted(event.target.value)}>
          <option value="">not known</option>
          <option value="yes">yes, recovery key on file</option>
          <option value="no">no</option>
        </SelectField>
        <TextField
          label="Old drive, GB"
          value={source}
          inputMode="decimal"
          onChange={(event) => setSource(event.target.value)}
        />
        <TextField
          label="Used of it, GB"
          value={used}
          inputMode="decimal"
          onChange={(event) => setUsed(event.target.value)}
        />
        <label className="flex items-baseline gap-2">
          <input type="checkbox" checked={failing} onChange={() => setFailing(!failing)} />
          the old drive shows errors
        </label>
      </div>
      {plan.isError && <p className="mt-3 font-semibold text-short">{plan.error.message}</p>}
      {plan.data && !plan.isError && <Plan plan={plan.data} />}
    </Sheet>
  );
}

function Plan({ plan }: { plan: NonNullable<ReturnType<typeof useDrive>["data"]> }) {
  return (
    <table className="mt-4 w-full [&_td]:py-1 [&_th]:py-1 [&_th]:pr-3 [&_th]:align-baseline [&_tr]:border-b [&_tr]:border-dotted [&_tr]:border-rule">
      <tbody>
        <tr>
          <th scope="row">Fit</th>
          <td>
            <strong>{VERDICT_NAMES[plan.verdict.verdict]}</strong>: {plan.verdict.reason}
          </td>
        </tr>
        <tr>
          <th scope="row">Runs at</th>
          <td>{plan.verdict.speed ?? "not known"}</td>
        </tr>
        <tr>
          <th scope="row">Data</th>
          <td className={plan.how === "refuse" ? "text-short" : ""}>
            <strong>{HOW[plan.how]}</strong>: {plan.reason}
            {plan.minutes !== null && `; ${minutesWords(plan.minutes)} at ${plan.link_gb_s} GB/s, the slowest link`}
          </td>
        </tr>
        <tr>
          <th scope="row">Advice</th>
          <td>
            {plan.first.map((item) => (
              <span key={item} className="block font-semibold text-thin">
                {item}
              </span>
            ))}
            {plan.advice}. Nothing is removed without a backup or a signed “no data wanted”.
          </td>
        </tr>
        {plan.beside.length > 0 && (
          <tr>
            <th scope="row">Beside it</th>
            <td>{plan.beside.join(", ")}</td>
          </tr>
        )}
      </tbody>
    </table>
  );
}
