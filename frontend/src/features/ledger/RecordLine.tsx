import { useEffect } from "react";
import type { UseFormRegister, UseFormSetValue, UseFormWatch } from "react-hook-form";
import type { Problem, Schemas } from "@/api/client";
import { day } from "@/lib/format";
import { Button } from "@/ui/Button";
import { SelectField, TextField } from "@/ui/Field";
import type { AssetCard, Position } from "./ledger.queries";
import type { RecordValues } from "./RecordForm";

export interface RecordLineProps {
  place: number;
  card: AssetCard;
  session: Schemas["SessionState"];
  register: UseFormRegister<RecordValues>;
  watch: UseFormWatch<RecordValues>;
  setValue: UseFormSetValue<RecordValues>;
  problem: Problem | null;
  onRemove: (() => void) | null;
}

/** The part to offer first: the one that is in now, or the first that fits; and a shelf that has it, the machine's own first. */
function suggestion(position: Position | undefined, card: AssetCard): { part: string; shelf: string } {
  const fitting = position?.fits.filter((fit) => fit.verdict === "yes") ?? [];
  const part = fitting.find((fit) => fit.part_number === position?.part_number) ?? fitting[0];
  const stocked = Object.keys(part?.on_hand ?? {});
  const own = card.site_code && stocked.includes(card.site_code) ? card.site_code : undefined;
  return { part: part?.part_number ?? position?.part_number ?? "", shelf: own ?? stocked[0] ?? card.site_code ?? "" };
}

export function RecordLine({ place, card, session, register, watch, setValue, problem, onRemove }: RecordLineProps) {
  const line = watch(`lines.${place}`);
  const position = card.positions.find((entry) => entry.position_id === Number(line.position_id));
  const chosen = position?.fits.find((fit) => fit.part_number === line.part_number);
  useEffect(() => {
    const offered = suggestion(position, card);
    setValue(`lines.${place}.part_number`, offered.part);
    setValue(`lines.${place}.shelf_site`, offered.shelf);
  }, [position, card, place, setValue]);
  const at = (field: string): string | undefined => problem?.at(`lines.${place}.${field}`);
  return (
    <fieldset className="grid gap-3 border-t border-rule pt-2">
      <legend className="sr-only">Position {place + 1}</legend>
      <div className="grid grid-cols-2 gap-3">
        <SelectField
          label="Position"
          fault={at("position_id")}
          {...register(`lines.${place}.position_id`, { valueAsNumber: true })}
          hint={
            position?.part_number
              ? `${position.part_number}, in since ${position.fitted_on ? day(position.fitted_on) : "an unknown day"}`
              : position?.ordered_unit
                ? `not orderable alone: ${position.ordered_unit}`
                : "nothing on record is in it"
          }
        >
          {card.positions.map((entry) => (
            <option key={entry.position_id} value={entry.position_id}>
              {entry.label}
            </option>
          ))}
        </SelectField>
        <SelectField label="What was done" {...register(`lines.${place}.action`)}>
          <option value="replaced">replaced</option>
          <option value="kept">looked at, left in</option>
          <option value="removed">taken out, nothing put in</option>
        </SelectField>
      </div>
      {line.action === "replaced" && (
        <div className="grid grid-cols-2 gap-3">
          <div className="col-span-2">
            <SelectField
              label="Part fitted"
              className="code w-full rounded-[2px] border border-soft bg-leaf px-2 py-1"
              fault={at("part_number")}
              hint={
                chosen
                  ? `${chosen.verdict === "yes" ? "fits" : chosen.verdict === "no" ? "does not fit" : "fit unknown"}: ${chosen.reason}`
                  : undefined
              }
              {...register(`lines.${place}.part_number`)}
            >
              <option value="">choose a part</option>
              {position?.fits.map((fit) => (
                <option key={fit.part_number} value={fit.part_number}>
                  {fit.part_number} · {fit.part_name}
                  {fit.verdict === "no" && " (does not fit)"}
                </option>
              ))}
            </SelectField>
          </div>
          <SelectField label="From the shelf" fault={at("shelf_site")} {...register(`lines.${place}.shelf_site`)}>
            <option value="">choose a shelf</option>
            {session.sites.map((site) => (
              <option key={site.code} value={site.code}>
                {site.name} ({chosen?.on_hand[site.code] ?? 0} on hand)
              </option>
            ))}
          </SelectField>
          <TextField
            label="Serial, if any"
            className="code"
            fault={at("serial")}
            {...register(`lines.${place}.serial`)}
          />
        </div>
      )}
      {onRemove && (
        <Button look="quiet" className="justify-self-start px-0!" onClick={onRemove}>
          Take this position off
        </Button>
      )}
    </fieldset>
  );
}
