import { useState } from "react";
import { useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { money } from "@/lib/format";
import { SelectField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import type { ModelPageData } from "./models.queries";
import { useMemory } from "./models.queries";

/** The memory planner: now, target, buy, freed. */
export function MemorySheet({ page, onClose }: { page: ModelPageData; onClose: () => void }) {
  const [target, setTarget] = useState(32);
  const [fitted, setFitted] = useState<Record<string, number>>({});
  const plan = useMemory(page.model_id, { target_gb: target, fitted });
  const session = useOutletContext<Schemas["SessionState"]>();
  const sheet = plan.data;
  const sizes = [0, 4, 8, 16, 32];
  const targets = sheet ? [...new Set([...sheet.totals, target])].sort((a, b) => a - b) : [target];
  return (
    <Sheet open onClose={onClose} title="Plan memory" about={`${page.maker} ${page.name}`}>
      {plan.isError && <p className="text-short">{plan.error.message}</p>}
      {sheet && (
        <>
          <div className="grid grid-cols-2 gap-3">
            {sheet.slots.map((slot) => (
              <SelectField
                key={slot.key}
                label={`${slot.label} now`}
                hint={slot.maximum_gb ? `to ${slot.maximum_gb} GB documented` : "no documented maximum"}
                value={slot.fitted_gb}
                onChange={(event) => setFitted({ ...fitted, [slot.key]: Number(event.target.value) })}
              >
                {[...new Set([...sizes, slot.fitted_gb])].map((size) => (
                  <option key={size} value={size}>
                    {size ? `${size} GB` : "empty"}
                  </option>
                ))}
              </SelectField>
            ))}
            <SelectField label="Target" value={target} onChange={(event) => setTarget(Number(event.target.value))}>
              {[...new Set([...targets, 64, 128])].map((size) => (
                <option key={size} value={size}>
                  {size} GB{sheet.totals.includes(size) ? "" : ", unreachable"}
                </option>
              ))}
            </SelectField>
          </div>
          <table className="mt-4 w-full [&_td]:py-1 [&_th]:py-1 [&_tr]:border-b [&_tr]:border-dotted [&_tr]:border-rule">
            <tbody>
              <tr>
                <th scope="row">Now</th>
                <td>
                  {sheet.total_gb} GB{sheet.soldered_gb > 0 && `, of which ${sheet.soldered_gb} GB soldered`}
                </td>
              </tr>
              <tr>
                <th scope="row">Target</th>
                <td className={sheet.verdict === "no" ? "text-short" : sheet.verdict === "unknown" ? "text-thin" : ""}>
                  {sheet.reason}
                </td>
              </tr>
              <tr>
                <th scope="row">Buy</th>
                <td>
                  {sheet.choices
                    .filter((choice) => choice.buy)
                    .map((choice) => (
                      <span key={choice.slot} className="block">
                        <span className="code font-semibold">{choice.buy}</span> {choice.buy_name} into {choice.label},{" "}
                        {money(Number(choice.price), session.currency)}
                      </span>
                    ))}
                  {sheet.reached_gb !== null && Number(sheet.cost) === 0 && "nothing"}
                  {sheet.reached_gb === null && "nothing reaches it"}
                  {Number(sheet.cost) > 0 && <strong>{money(Number(sheet.cost), session.currency)} together</strong>}
                </td>
              </tr>
              <tr>
                <th scope="row">Freed</th>
                <td>
                  {sheet.freed.length
                    ? `${sheet.freed.map((size) => `${size} GB`).join(", ")} to harvested stock`
                    : "nothing"}
                </td>
              </tr>
              <tr>
                <th scope="row">Reachable</th>
                <td>{sheet.totals.join(", ")} GB</td>
              </tr>
              <tr>
                <th scope="row">Maximum</th>
                <td>
                  {sheet.maximum_gb ? `${sheet.maximum_gb} GB documented` : "not documented"}
                  {sheet.tried_gb ? `, ${sheet.tried_gb} GB tried` : ""}
                </td>
              </tr>
            </tbody>
          </table>
          {sheet.practice.map((risk) => (
            <p key={risk} className="mt-2 border-l-4 border-thin bg-pick px-2 py-1">
              In practice: {risk}.
            </p>
          ))}
        </>
      )}
    </Sheet>
  );
}
