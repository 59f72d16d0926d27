import { useState } from "react";
import { Link } from "react-router";
import { age, day, plural, shortDay } from "@/lib/format";
import { useClaims, useRetiring } from "./stores.queries";

const FEW = 5;
const LIES: Record<string, string> = {
  quarantine: "in quarantine",
  returned: "back at the supplier",
  scrapped: "scrapped already",
};

const HEAD = "border-b border-ink pb-0.5 text-left font-semibold";

/** Failed parts their supplier still stands for: what to claim, the soonest to end first. */
export function Claims() {
  const [all, setAll] = useState(false);
  const claims = useClaims();
  if (!claims.data || claims.data.length === 0) return null;
  const shown = all ? claims.data : claims.data.slice(0, FEW);
  return (
    <table className="mt-5 w-full">
      <caption className={HEAD}>
        {plural(claims.data.length, "failed part")} under warranty{" "}
        <More all={all} many={claims.data.length} onAll={setAll} />
      </caption>
      <tbody>
        {shown.map((row) => (
          <tr key={`${row.incident_id}${row.part_number}`} className="border-b border-dotted border-rule align-top">
            <td className="py-0.5">
              <Link className="inline-block min-h-[24px] hover:underline" to={`/ledger/${row.incident_id}`}>
                {row.part_name}
              </Link>
              <span className="block text-[0.93rem] text-soft">
                {row.supplier}, from <span className="code">{row.tag}</span>, failed {shortDay(row.occurred_on)}
                {row.finding === "open" ? ", finding open" : ""}, {LIES[row.removed_to] ?? row.removed_to} at {row.site}
              </span>
            </td>
            <td className="pl-2 text-right whitespace-nowrap">until {day(row.until_on)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Machines about to retire, and the parts they would give; packs never. */
export function Retiring() {
  const [all, setAll] = useState(false);
  const found = useRetiring();
  if (!found.data || found.data.rows.length === 0) return null;
  const { rows, until } = found.data;
  const tags = [...new Set(rows.map((row) => row.tag))];
  const shown = all ? tags : tags.slice(0, FEW);
  return (
    <table className="mt-5 w-full">
      <caption className={HEAD}>
        {plural(tags.length, "machine")} to retire until {shortDay(until)}, and what they would give{" "}
        <More all={all} many={tags.length} onAll={setAll} />
      </caption>
      <tbody>
        {shown.map((tag) => {
          const own = rows.filter((row) => row.tag === tag);
          const parts = own.filter((row) => row.part_number !== null);
          return (
            <tr key={tag} className="border-b border-dotted border-rule align-top">
              <td className="py-0.5">
                <span className="code">{tag}</span> {own[0]?.model}, {own[0]?.site}
                <span className="block text-[0.93rem] text-soft">
                  {parts.length === 0
                    ? "nothing is on record that could be kept"
                    : parts
                        .map(
                          (row) =>
                            `${row.units} ${row.part_number}${row.oldest_days ? `, ${age(row.oldest_days)} old` : ""}`,
                        )
                        .join("; ")}
                </span>
              </td>
              <td className="pl-2 text-right whitespace-nowrap">{own[0] ? shortDay(own[0].retire_on) : ""}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function More({ all, many, onAll }: { all: boolean; many: number; onAll: (all: boolean) => void }) {
  if (many <= FEW) return null;
  return (
    <button type="button" className="min-h-[24px] font-normal text-accent underline" onClick={() => onAll(!all)}>
      {all ? "fewer" : "all of them"}
    </button>
  );
}
