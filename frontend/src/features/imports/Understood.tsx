import { day, figure, plural } from "@/lib/format";
import { SelectField } from "@/ui/Field";
import type { Look, Settled } from "./lists.queries";

export interface UnderstoodProps {
  look: Look;
  settled: Settled;
  onSettle: (change: Partial<Settled>) => void;
}

const NONE = "-";

/** What a list is taken for, and what only a person can say. */
export function Understood({ look, settled, onSettle }: UnderstoodProps) {
  return (
    <section className="mt-4" aria-label="What it is taken for">
      <p className="font-serif text-[1.15rem] leading-snug">
        Taken for <strong>{plural(look.rows, "machine")}</strong>: {look.how}
        {look.sheet ? `, sheet ${look.sheet}` : ""}, header in line {look.header_line}.
        {look.not_ours > 0 && ` ${plural(look.not_ours, "row is", "rows are")} none of ours.`}
      </p>
      <Questions look={look} settled={settled} onSettle={onSettle} />
      {look.taken.length > 0 && (
        <p className="mt-2 text-soft">
          Taken for:{" "}
          {look.taken
            .slice(0, 8)
            .map((one) => `${one.text} → ${one.meaning}`)
            .join("; ")}
          {look.taken.length > 8 && ` and ${look.taken.length - 8} more`}.
        </p>
      )}
      <Columns look={look} settled={settled} onSettle={onSettle} />
      <Rows look={look} />
    </section>
  );
}

function Questions({ look, settled, onSettle }: UnderstoodProps) {
  if (!look.asks_order && look.questions.length === 0) return null;
  const name = (field: string, key: string, meaning: string): void =>
    onSettle({ names: { ...settled.names, [field]: { ...settled.names[field], [key]: meaning } } });
  return (
    <div className="mt-3 border-l-2 border-thin pl-3">
      <h3 className="font-sans text-[1rem] font-semibold">{plural(look.open, "question")}</h3>
      {look.asks_order && (
        <fieldset className="mt-2">
          <legend>
            {look.open_days[0]?.text} in line {look.open_days[0]?.line}: which stands first?
          </legend>
          {[true, false].map((first) => (
            <label key={String(first)} className="mr-4 inline-flex min-h-[28px] items-center gap-2">
              <input
                type="radio"
                name="day-first"
                checked={settled.day_first === first}
                onChange={() => onSettle({ day_first: first })}
              />
              {first ? "the day" : "the month"}
            </label>
          ))}
          {look.proves_day_first.length > 0 && look.proves_month_first.length > 0 && (
            <p className="text-thin">
              Rows contradict each other: {look.proves_day_first[0]?.text} in line {look.proves_day_first[0]?.line},{" "}
              {look.proves_month_first[0]?.text} in line {look.proves_month_first[0]?.line}.
            </p>
          )}
        </fieldset>
      )}
      {look.questions.slice(0, 12).map((one) => (
        <div key={`${one.field} ${one.key}`} className="mt-2">
          <SelectField
            label={`${one.field === "model" ? "Model" : "Site"} “${one.text}”, ${plural(one.rows, "row")}`}
            value=""
            onChange={(event) => name(one.field, one.key, event.target.value)}
          >
            <option value="">choose what it is</option>
            {one.proposal && (
              <option value={one.proposal}>
                perhaps{" "}
                {(one.field === "model" ? look.models : look.sites).find((own) => own.value === one.proposal)?.words}
              </option>
            )}
            <option value={NONE}>none of ours: leave these rows out</option>
            {(one.field === "model" ? look.models : look.sites).map((own) => (
              <option key={own.value} value={own.value}>
                {own.words}
              </option>
            ))}
          </SelectField>
        </div>
      ))}
      {look.questions.length > 12 && (
        <p className="mt-1 text-soft">{figure(look.questions.length - 12)} more follow once these are answered.</p>
      )}
    </div>
  );
}

function Columns({ look, settled, onSettle }: UnderstoodProps) {
  return (
    <details className="mt-3 border-b border-rule py-1">
      <summary>
        Columns:{" "}
        {look.fields
          .filter((field) => field.column)
          .map((field) => `${field.column} → ${field.about}`)
          .join(", ")}
      </summary>
      <div className="mt-2 grid grid-cols-2 gap-3">
        {look.fields.map((field) => (
          <SelectField
            key={field.name}
            label={`${field.about}${field.needed ? ", needed" : ""}`}
            value={field.column ?? ""}
            onChange={(event) => onSettle({ columns: { ...settled.columns, [field.name]: event.target.value } })}
          >
            <option value="">not in this list</option>
            {look.header.map((name) => (
              <option key={name} value={name}>
                {name}
              </option>
            ))}
          </SelectField>
        ))}
        {look.sheets.length > 1 && (
          <SelectField label="Sheet" value={look.sheet} onChange={(event) => onSettle({ sheet: event.target.value })}>
            {look.sheets.map((name) => (
              <option key={name} value={name}>
                {name}
              </option>
            ))}
          </SelectField>
        )}
      </div>
    </details>
  );
}

function Rows({ look }: { look: Look }) {
  return (
    <details className="mt-1 border-b border-rule py-1">
      <summary>The first {look.shown.length} rows as they were understood</summary>
      <table className="mt-1 w-full text-[0.93rem]">
        <thead>
          <tr className="border-b border-ink">
            {["Line", "Tag", "Model", "Site", "In service since", "Status"].map((name) => (
              <th key={name} scope="col" className="py-0.5 pr-2">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {look.shown.map((row) => (
            <tr key={row.line} className="border-b border-dotted border-rule">
              <td className="pr-2">{row.line}</td>
              <td className="code pr-2">{row.tag || "–"}</td>
              <td className="pr-2">{row.model ?? "?"}</td>
              <td className="pr-2">{row.site ?? "?"}</td>
              <td className="pr-2">{row.in_service_on ? day(row.in_service_on) : "?"}</td>
              <td>{row.status || "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
