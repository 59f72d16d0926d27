import { figure, plural } from "@/lib/format";
import { SelectField } from "@/ui/Field";
import type { Look, Settled } from "./lists.queries";
import { Questions } from "./Questions";

export interface UnderstoodProps {
  look: Look;
  /** While an answer is on its way: what is seen is of before. */
  looking: boolean;
  settled: Settled;
  onSettle: (change: Partial<Settled>) => void;
  onKind: (kind: string) => void;
}

/** What a list is taken for, and what only a person can say. */
export function Understood({ look, looking, settled, onSettle, onKind }: UnderstoodProps) {
  const kind = look.kinds.find((one) => one.kind === look.kind);
  return (
    <section className="mt-4" aria-label="What it is taken for" aria-busy={looking}>
      <p className="font-serif text-[1.15rem] leading-snug">
        Taken for a <strong>{kind?.title}</strong> with {plural(look.rows, kind?.one ?? "row", kind?.many)}: {look.how}
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
          {look.taken.length > 8 && ` and ${figure(look.taken.length - 8)} more`}.
        </p>
      )}
      <Columns look={look} settled={settled} onSettle={onSettle} onKind={onKind} />
      <Rows look={look} />
    </section>
  );
}

function Columns({ look, settled, onSettle, onKind }: Omit<UnderstoodProps, "looking">) {
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
        <SelectField label="What it is" value={look.kind} onChange={(event) => onKind(event.target.value)}>
          {look.kinds.map((one) => (
            <option key={one.kind} value={one.kind}>
              {one.title}
            </option>
          ))}
        </SelectField>
        {look.sheets.length > 1 && (
          <SelectField label="Sheet" value={look.sheet} onChange={(event) => onSettle({ sheet: event.target.value })}>
            {look.sheets.map((name) => (
              <option key={name} value={name}>
                {name}
              </option>
            ))}
          </SelectField>
        )}
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
      </div>
    </details>
  );
}

function Rows({ look }: { look: Look }) {
  return (
    <details className="mt-1 border-b border-rule py-1">
      <summary>The first {plural(look.shown.length, "row")} as they were understood</summary>
      <table className="mt-1 w-full text-[0.93rem]">
        <thead>
          <tr className="border-b border-ink">
            <th scope="col" className="py-0.5 pr-2">
              Line
            </th>
            {look.shown_columns.map((name) => (
              <th key={name} scope="col" className="py-0.5 pr-2">
                {name.charAt(0).toUpperCase() + name.slice(1)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {look.shown.map((row) => (
            <tr key={row.line} className="border-b border-dotted border-rule align-top">
              <td className="pr-2">{row.line}</td>
              {row.cells.map((cell, place) => (
                <td key={look.shown_columns[place]} className={`pr-2 ${place === 0 ? "code" : ""}`}>
                  {cell || "–"}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
