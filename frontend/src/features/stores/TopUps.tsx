import { plural, shortDay } from "@/lib/format";
import { Button } from "@/ui/Button";
import { ProblemFoot } from "./ProblemFoot";
import { type Tally, useTopUp } from "./stores.queries";

/** Packs that lost charge on the shelf: due soon, or nobody knows when they were charged. */
export function TopUps({ tally, may }: { tally: Tally; may: boolean }) {
  const charge = useTopUp();
  if (tally.top_ups.length === 0) return null;
  const unknown = tally.top_ups.filter((one) => one.due_on === null).length;
  return (
    <table className="mt-5 w-full">
      <caption className="border-b border-ink pb-0.5 text-left font-semibold">
        Packs to charge
        {unknown > 0 && (
          <span className="font-normal text-thin">
            , of {plural(unknown, "shelf", "shelves")} nobody knows since when
          </span>
        )}
      </caption>
      <tbody>
        {tally.top_ups.map((one) => (
          <tr key={`${one.part_number}${one.site}`} className="border-b border-dotted border-rule">
            <td className="py-0.5">
              {one.quantity} {one.part_name} at {one.site}
            </td>
            <td
              className={`text-right ${one.due_on !== null && one.due_on < tally.as_of ? "text-short" : "text-soft"}`}
            >
              {one.due_on === null ? "not known" : shortDay(one.due_on)}
            </td>
            <td className="text-right">
              {may && (
                <Button
                  look="quiet"
                  className="py-0!"
                  aria-label={`Charged: ${one.part_name} at ${one.site}`}
                  disabled={charge.isPending}
                  onClick={() => charge.mutate({ number: one.part_number, site: one.site })}
                >
                  Charged
                </Button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
      <ProblemFoot error={charge.error} />
    </table>
  );
}
