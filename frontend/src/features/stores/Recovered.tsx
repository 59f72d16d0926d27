import { ageWithin, shortDay } from "@/lib/format";
import { Button } from "@/ui/Button";
import { ProblemFoot } from "./ProblemFoot";
import { type Shelf, useRecordTest } from "./stores.queries";

/** Parts out of machines: no stock before their test; a good one counts with its age, a worn one is scrapped. Packs never. */
export function Recovered({ shelf, may }: { shelf: Shelf; may: boolean }) {
  const test = useRecordTest({ number: shelf.part_number, site: shelf.site });
  if (shelf.recovered.length === 0) return null;
  const pack = shelf.energy_class !== null;
  return (
    <table className="mt-4 w-full">
      <caption className="border-b border-ink pb-0.5 text-left font-semibold">
        Recovered{pack ? ", never stock again" : ""}
      </caption>
      <tbody>
        {shelf.recovered.map((unit) => (
          <tr key={unit.id} className="border-b border-dotted border-rule">
            <td className="py-0.5">
              out of <span className="code">{unit.tag}</span>, {shortDay(unit.removed_on)},{" "}
              {ageWithin(unit.age_days, unit.age_span_days)} in service
              {unit.serial && (
                <>
                  , serial <span className="code">{unit.serial}</span>
                </>
              )}
            </td>
            <td className="text-right whitespace-nowrap">
              {unit.tested_as !== null && (
                <span className="text-fine">
                  {unit.tested_as}
                  {unit.tested_on ? `, ${shortDay(unit.tested_on)}` : ""}
                </span>
              )}
              {unit.tested_as === null &&
                may &&
                !pack &&
                (["good", "worn"] as const).map((result) => (
                  <Button
                    key={result}
                    look="quiet"
                    className="py-0!"
                    aria-label={`Tested ${result}: out of ${unit.tag}`}
                    disabled={test.isPending}
                    onClick={() => test.mutate({ unit: unit.id, result })}
                  >
                    Tested {result}
                  </Button>
                ))}
            </td>
          </tr>
        ))}
      </tbody>
      <ProblemFoot error={test.error} />
    </table>
  );
}
