import { SelectField, TextField } from "@/ui/Field";
import { changed, parseCount, parsePoints, pointsText, removed, withField, words } from "./document";
import { type Choice, LineField } from "./Parts";

/** Rows of a page's lists: feet, plugs, claims, look-alikes. Which fields a row has is said once, as its columns. */

export interface Column<Row> {
  key: keyof Row & string;
  label: string;
  as: "text" | "number" | "count" | "tick" | "point" | "points" | "list" | "choice";
  choices?: readonly Choice[];
  /** What stands for nobody having said; without it one is always chosen. */
  unsaid?: string;
  hint?: string;
}

export interface RowsProps<Row> {
  /** What one row is: "foot". */
  one: string;
  rows: readonly Row[];
  columns: readonly Column<Row>[];
  name: (row: Row) => string;
  fresh: () => Row;
  onChange: (rows: Row[]) => void;
}

export function Rows<Row extends object>({ one, rows, columns, name, fresh, onChange }: RowsProps<Row>) {
  const called = (row: Row, at: number): string => `${one} ${at + 1}${name(row) ? `, ${name(row)}` : ""}`;
  return (
    <div className="mt-1">
      {rows.map((row, at) => (
        <fieldset key={at} className="border-b border-dotted border-rule pb-2">
          <legend className="sr-only">{called(row, at)}</legend>
          <div className="grid grid-cols-[repeat(auto-fill,minmax(130px,1fr))] items-end gap-x-3 gap-y-1">
            {columns.map((column) => (
              <Cell
                key={column.key}
                column={column}
                row={row}
                of={called(row, at)}
                onChange={(value) => onChange(changed(rows, at, withField(row, column.key, value)))}
              />
            ))}
            <button
              type="button"
              className="justify-self-start py-1 text-short underline"
              onClick={() => onChange(removed(rows, at))}
            >
              remove<span className="sr-only"> {called(row, at)}</span>
            </button>
          </div>
        </fieldset>
      ))}
      <button
        type="button"
        className="mt-1 min-h-[24px] text-accent underline"
        onClick={() => onChange([...rows, fresh()])}
      >
        Add {/^[aeiou]/.test(one) ? "an" : "a"} {one}
      </button>
    </div>
  );
}

interface CellProps<Row> {
  column: Column<Row>;
  row: Row;
  of: string;
  onChange: (value: unknown) => void;
}

function Cell<Row extends object>({ column, row, of, onChange }: CellProps<Row>) {
  const value: unknown = row[column.key];
  const about = { label: column.label, of, ...(column.hint ? { placeholder: column.hint } : {}) };
  if (column.as === "tick")
    return (
      <label className="flex items-baseline gap-1.5 py-1">
        <input type="checkbox" checked={value === true} onChange={() => onChange(value === true ? undefined : true)} />
        <span>
          {column.label}
          <span className="sr-only"> of {of}</span>
        </span>
      </label>
    );
  if (column.as === "choice")
    return (
      <SelectField
        {...about}
        value={String(value ?? "")}
        onChange={(event) => onChange(chosen(event.target.value, column))}
      >
        {column.unsaid && <option value="">{column.unsaid}</option>}
        {(column.choices ?? []).map((choice) => (
          <option key={choice.value} value={choice.value}>
            {choice.label}
          </option>
        ))}
      </SelectField>
    );
  if (column.as === "text")
    return (
      <TextField
        {...about}
        value={String(value ?? "")}
        onChange={(event) => onChange(event.target.value || undefined)}
      />
    );
  return <LineField {...about} value={shown(value, column.as)} onCommit={(text) => onChange(read(text, column.as))} />;
}

/** "true" and "false" among the choices are yes and no. */
function chosen<Row>(value: string, column: Column<Row>): unknown {
  if (value === "") return column.unsaid ? undefined : null;
  return value === "true" ? true : value === "false" ? false : value;
}

function shown(value: unknown, as: Column<object>["as"]): string {
  if (value === null || value === undefined) return "";
  if (as === "points") return pointsText(value as number[][]);
  if (as === "point") return pointsText([value as number[]]);
  return Array.isArray(value) ? value.join(", ") : String(value);
}

function read(text: string, as: Column<object>["as"]): unknown {
  if (as === "points") return parsePoints(text);
  if (as === "point") return parsePoints(text)?.[0];
  if (as === "count") return parseCount(text);
  if (as === "list") return words(text);
  const figure = Number.parseFloat(text.replace(",", "."));
  return Number.isFinite(figure) ? figure : undefined;
}
