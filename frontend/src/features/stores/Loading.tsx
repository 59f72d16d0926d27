import { useState } from "react";
import { shortDay } from "@/lib/format";
import { Button } from "@/ui/Button";
import { ProblemFoot } from "./ProblemFoot";
import { type Tally, usePack } from "./stores.queries";

export interface LoadingProps {
  tally: Tally;
  may: boolean;
  onOpen: (number: string, site: string) => void;
}

/** What the next boats take from the depot, a button a line; a line that was packed says so until the plan is worked out again. */
export function Loading({ tally, may, onOpen }: LoadingProps) {
  const pack = usePack();
  const [packed, setPacked] = useState<string[]>([]);
  const depot = tally.sites.find((site) => site.is_depot);
  const boats = tally.sites
    .map((site, place) => ({
      site,
      lines: tally.rows.flatMap((row) => {
        const load = row.cells[place]?.load ?? 0;
        return load > 0 ? [{ row, load }] : [];
      }),
    }))
    .filter((boat) => boat.lines.length > 0);
  if (boats.length === 0 || !depot) return null;
  return (
    <table className="mt-5 w-full">
      <caption className="border-b border-ink pb-0.5 text-left font-semibold">To load, from {depot.name}</caption>
      {boats.map(({ site, lines }) => (
        <tbody key={site.code}>
          <tr>
            <th colSpan={2} scope="rowgroup" className="border-b border-rule pt-2 text-left font-semibold">
              {site.name}
              {site.lane?.next_on ? `, ${site.lane.carrier} on ${shortDay(site.lane.next_on)}` : ""}
            </th>
          </tr>
          {lines.map(({ row, load }) => {
            const key = `${row.number} ${site.code} ${load}`;
            return (
              <tr key={key} className="border-b border-dotted border-rule">
                <td className="py-0.5">
                  <button
                    type="button"
                    className="min-h-[24px] text-left hover:underline"
                    onClick={() => onOpen(row.number, site.code)}
                  >
                    {load} {row.name}
                  </button>
                </td>
                <td className="text-right">
                  {may && !packed.includes(key) && (
                    <Button
                      look="quiet"
                      className="py-0!"
                      aria-label={`Pack ${load} ${row.name} for ${site.name}`}
                      disabled={pack.isPending}
                      onClick={() =>
                        pack.mutate(
                          { part_number: row.number, from_site: depot.code, to_site: site.code, quantity: load },
                          { onSuccess: () => setPacked((before) => [...before, key]) },
                        )
                      }
                    >
                      Pack
                    </Button>
                  )}
                  {packed.includes(key) && <span className="text-soft">packed</span>}
                </td>
              </tr>
            );
          })}
        </tbody>
      ))}
      <ProblemFoot error={pack.error} />
    </table>
  );
}
