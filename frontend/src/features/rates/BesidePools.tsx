import { useState } from "react";
import { counted, perHundred } from "@/lib/format";
import { AIR_NAMES, DUTY_NAMES } from "@/lib/words";
import { Button } from "@/ui/Button";
import type { KindRates } from "./rates.queries";

type Pool = KindRates["pools"][number];
const SHOWN = 6;

const beside = (pool: Pool): number => (pool.damage?.rate ?? 0) + (pool.suspicion?.rate ?? 0);

/** What is drawn beside wear, by pool: a model in rough hands shows its own rate. */
export function BesidePools({ rates }: { rates: KindRates }) {
  const [all, setAll] = useState(false);
  const live = rates.pools
    .filter((pool) => pool.units > 0 && pool.damage && pool.suspicion)
    .toSorted((a, b) => beside(b) - beside(a));
  if (live.length === 0) return null;
  return (
    <section className="mt-4" aria-labelledby="beside">
      <h3 id="beside" className="text-[1.1rem]">
        Damage, and draws on suspicion
      </h3>
      <p className="text-[0.93rem] text-soft">
        Per 100 a year, in brackets how many there were; each pool leans on its kind. An open finding counts in part.
      </p>
      <table className="mt-1 w-full">
        <thead>
          <tr className="border-b border-ink">
            <th scope="col" className="py-0.5 pr-3">
              Part, model
            </th>
            <th scope="col" className="pr-3">
              Duty, air
            </th>
            <th scope="col" className="pr-3 text-right">
              Damage
            </th>
            <th scope="col" className="text-right">
              Suspicion
            </th>
          </tr>
        </thead>
        <tbody>
          {(all ? live : live.slice(0, SHOWN)).map((pool) => (
            <tr
              key={`${pool.part}|${pool.model}|${pool.duty}|${pool.air}|${pool.lot}`}
              className="border-b border-dotted border-rule align-top"
            >
              <th scope="row" className="py-0.5 pr-3 font-normal">
                <span className="code">{pool.part}</span>
                <span className="block text-[0.93rem] text-soft">{pool.model}</span>
              </th>
              <td className="pr-3 text-[0.93rem]">
                {DUTY_NAMES[pool.duty]}
                <span className="block text-soft">{AIR_NAMES[pool.air]}</span>
              </td>
              <td className="pr-3 text-right whitespace-nowrap">
                {perHundred(pool.damage?.rate ?? 0)}{" "}
                <span className="text-soft">({counted(pool.damage?.seen ?? 0)})</span>
              </td>
              <td className="text-right whitespace-nowrap">
                {perHundred(pool.suspicion?.rate ?? 0)}{" "}
                <span className="text-soft">({counted(pool.suspicion?.seen ?? 0)})</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {live.length > SHOWN && (
        <p className="mt-2">
          <Button onClick={() => setAll(!all)}>{all ? "Show fewer" : `Show all ${live.length} pools`}</Button>
        </p>
      )}
    </section>
  );
}
