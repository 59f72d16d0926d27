import { useState } from "react";
import type { Schemas } from "@/api/client";
import { day, plural } from "@/lib/format";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { Waiting } from "@/ui/Notice";
import { Sheet } from "@/ui/Sheet";
import { useEditPart, usePart } from "./stores.queries";

type Part = Schemas["PartToEdit"];
type Texts = Record<keyof Schemas["PartFields"], string>;

const FIELDS = [
  "name",
  "price",
  "pack",
  "minimum_order",
  "shelf_life_days",
  "end_of_supply_on",
  "warranty_days",
  "price_breaks",
  "breaks",
  "lead_time",
] as const;

/** A part's price, packs and days, and its supplier's stated lead time: as they are, changed by a lead, on record. */
export function PartSheet({ number, onClose }: { number: string; onClose: () => void }) {
  const part = usePart(number);
  if (!part.data) {
    return (
      <Sheet open onClose={onClose} title={number}>
        {part.error ? part.error.message : <Waiting what="Reading the part" />}
      </Sheet>
    );
  }
  return <Edit key={part.data.number_of_changes} number={number} part={part.data} onClose={onClose} />;
}

const textOf = (value: string | number | null): string => (value === null ? "" : String(value));
const numberOf = (text: string): number | null => (text.trim() ? Number(text) : null);

function Edit({ number, part, onClose }: { number: string; part: Part; onClose: () => void }) {
  const [texts, setTexts] = useState<Texts>(
    () => Object.fromEntries(Object.entries(part.fields).map(([name, value]) => [name, textOf(value)])) as Texts,
  );
  const edit = useEditPart(number);
  const fields = (): Schemas["PartFields"] => ({
    name: texts.name,
    price: Number(texts.price),
    pack: Number(texts.pack),
    minimum_order: Number(texts.minimum_order),
    shelf_life_days: numberOf(texts.shelf_life_days),
    end_of_supply_on: texts.end_of_supply_on || null,
    warranty_days: numberOf(texts.warranty_days),
    price_breaks: texts.price_breaks,
    lead_time: texts.lead_time,
  });
  return (
    <AskSheet
      title={number}
      about={`From ${part.supplier}. What is changed holds from now on; what it was stays on record.`}
      label="Change it"
      sending={edit}
      fields={FIELDS}
      onSend={() => edit.mutate({ fields: fields(), expected_changes: part.number_of_changes }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => {
        const field = (
          name: keyof Texts,
          label: string,
          more: { type?: string; hint?: string; step?: string } = {},
        ) => (
          <ValueField
            label={label}
            value={texts[name]}
            fault={problem?.at(name) ?? (name === "price_breaks" ? problem?.at("breaks") : undefined)}
            onValue={(value) => setTexts((before) => ({ ...before, [name]: value }))}
            {...more}
          />
        );
        return (
          <>
            {field("name", "Name")}
            <div className="grid grid-cols-3 gap-3">
              {field("price", "Price of one", { type: "number", step: "0.01" })}
              {field("pack", "In a pack", { type: "number" })}
              {field("minimum_order", "Sold from", { type: "number" })}
            </div>
            {field("price_breaks", "Price breaks", { hint: "From how many what one costs: 10:17.50; 50:16" })}
            <div className="grid grid-cols-3 gap-3">
              {field("shelf_life_days", "Keeps, days", { type: "number", hint: "Empty: for ever." })}
              {field("warranty_days", "Warranty, days", { type: "number", hint: "Empty: not known." })}
              {field("end_of_supply_on", "Sold until", { type: "date" })}
            </div>
            {field("lead_time", `Lead time ${part.supplier} states, days`, {
              hint: `21, or with weights 18:0.25; 21:0.75${part.shared_by > 0 ? `. It is that of ${plural(part.shared_by, "other part")}, too` : ""}.`,
            })}
            <History part={part} />
          </>
        );
      }}
    </AskSheet>
  );
}

function History({ part }: { part: Part }) {
  if (part.changes.length === 0) return null;
  return (
    <ul className="max-h-[16vh] overflow-y-auto border-t border-rule pt-2 text-[0.93rem] text-soft">
      {part.changes.map((change) => (
        <li key={`${change.changed_on}${change.field}${change.before}${change.after}`}>
          {day(change.changed_on)}: {change.field} {change.before} → {change.after}
          {change.author ? `, ${change.author}` : ""}
        </li>
      ))}
    </ul>
  );
}
