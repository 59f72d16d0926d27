import type { ReactNode } from "react";

export interface FigureTableProps {
  title: string;
  aside?: string;
  shown: boolean;
  onToggle: () => void;
  columns: string[];
  rows: (string | number)[][];
  children: ReactNode;
}

/** A figure with its running head, and the same numbers as a table for reading aloud and for copying. */
export function FigureTable({ title, aside, shown, onToggle, columns, rows, children }: FigureTableProps) {
  return (
    <figure className="mt-4">
      <figcaption className="flex items-baseline justify-between border-b border-rule pb-0.5">
        <span className="font-semibold">{title}</span>
        <span className="flex items-baseline gap-3 text-[0.93rem] text-soft">
          {aside}
          <button type="button" className="no-print text-accent underline" aria-expanded={shown} onClick={onToggle}>
            {shown ? "figure" : "table"}
          </button>
        </span>
      </figcaption>
      {shown ? (
        <table className="mt-1 w-full text-[0.93rem]">
          <thead>
            <tr className="border-b border-ink">
              {columns.map((column, place) => (
                <th key={column} scope="col" className={`py-0.5 ${place > 0 ? "text-right" : ""}`}>
                  {column}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.join("|")} className="border-b border-dotted border-rule">
                {row.map((cell, place) => (
                  <td key={columns[place]} className={`py-0.5 ${place > 0 ? "text-right" : ""}`}>
                    {cell}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <div className="mt-1">{children}</div>
      )}
    </figure>
  );
}
