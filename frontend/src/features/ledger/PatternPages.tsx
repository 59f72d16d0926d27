import { Link } from "react-router";
import { day, figure, percent, perHundred } from "@/lib/format";
import { KIND_NAMES, kindColour } from "@/lib/words";
import { Failed, Nothing, Waiting } from "@/ui/Notice";
import { useRepeats, useShares } from "./ledger.queries";

const chance = (probability: number): string =>
  probability < 0.001 ? "under 0.1%" : `${figure(probability * 100, probability < 0.1 ? 1 : 0)}%`;

/** Positions that failed again sooner than their part's life says: something else than the part may be wrong. */
export function RepeatsPage() {
  const found = useRepeats();
  if (found.isError) return <Failed title="The log cannot be read" detail={found.error.message} />;
  if (!found.data) return <Waiting what="Looking for what failed again" />;
  const rows = found.data.repeats;
  return (
    <section className="p-4">
      <h2 className="text-[1.4rem]">Repeat offenders</h2>
      <p className="text-soft">
        A new part failed where one had failed before. The chance is that of failing this soon or sooner at the part's
        own rate: a small one says that something else than the part may be wrong. Last three years, up to 20%.
      </p>
      {rows.length === 0 && <Nothing>No position failed again sooner than its part's rate says.</Nothing>}
      {rows.length > 0 && (
        <table className="mt-3 w-full">
          <thead>
            <tr className="border-b border-ink align-bottom">
              <th scope="col" className="py-1 pr-3">
                Machine
              </th>
              <th scope="col" className="pr-3">
                Position and part
              </th>
              <th scope="col" className="pr-3 text-right">
                Lasted, days
              </th>
              <th scope="col" className="pr-3 text-right">
                Rate, per 100 a year
              </th>
              <th scope="col" className="text-right">
                Chance
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.incident_id} className="border-b border-dotted border-rule align-top">
                <td className="py-1 pr-3">
                  <Link className="code text-accent underline" to={`/ledger/${row.incident_id}`}>
                    {row.tag}
                  </Link>
                  <span className="block text-[0.93rem] text-soft">
                    {row.model}; failed{" "}
                    <Link className="underline" to={`/ledger/${row.before_id}`}>
                      {day(row.before_on)}
                    </Link>
                    , again {day(row.occurred_on)}
                  </span>
                </td>
                <td className="pr-3">
                  {row.position}
                  <span className="code block text-soft">{row.part_number}</span>
                </td>
                <td className="pr-3 text-right">{figure(row.lasted_days)}</td>
                <td className="pr-3 text-right">{row.rate === null ? "no rate" : perHundred(row.rate)}</td>
                <td
                  className={`text-right font-semibold whitespace-nowrap ${row.probability !== null && row.probability < 0.05 ? "text-short" : ""}`}
                >
                  {row.probability === null ? "not known" : chance(row.probability)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

/** How often nothing was wrong with a part that was complained about. */
export function SharesPage() {
  const found = useShares();
  if (found.isError) return <Failed title="The log cannot be read" detail={found.error.message} />;
  if (!found.data) return <Waiting what="Counting the findings" />;
  return (
    <section className="p-4">
      <h2 className="text-[1.4rem]">No-fault shares</h2>
      <p className="text-soft">
        Of the settled complaints about a part, how many found no fault in it; the bar is the 90% interval. The surest
        come first: there, look at the diagnosis before the part.
      </p>
      <table className="mt-3 w-full">
        <thead>
          <tr className="border-b border-ink align-bottom">
            <th scope="col" className="py-1 pr-3">
              Part
            </th>
            <th scope="col" className="pr-3 text-right">
              Complaints
            </th>
            <th scope="col" className="pr-3 text-right">
              open
            </th>
            <th scope="col" className="w-[34%] pr-3">
              No fault found
            </th>
            <th scope="col" className="text-right">
              of settled
            </th>
          </tr>
        </thead>
        <tbody>
          {found.data.parts.map((part) => (
            <tr key={part.number} className="border-b border-dotted border-rule">
              <td className="py-1 pr-3">
                <Link className="code text-accent underline" to={`/outlook/${part.number}`}>
                  {part.number}
                </Link>
                <span className="block text-[0.93rem] text-soft">
                  {KIND_NAMES[part.kind]?.toLowerCase() === part.name.toLowerCase() ? "" : part.name}
                </span>
              </td>
              <td className="pr-3 text-right">{part.complaints}</td>
              <td className="pr-3 text-right">{part.open || ""}</td>
              <td className="pr-3">
                <span className="relative block h-3 bg-pick" aria-hidden>
                  <span
                    className="absolute inset-y-[3px]"
                    style={{
                      left: `${part.no_fault.low * 100}%`,
                      width: `${(part.no_fault.high - part.no_fault.low) * 100}%`,
                      background: kindColour(part.kind),
                      opacity: 0.55,
                    }}
                  />
                  <span
                    className="absolute inset-y-0 w-[3px] bg-ink"
                    style={{ left: `${part.no_fault.share * 100}%` }}
                  />
                </span>
              </td>
              <td className="text-right whitespace-nowrap">
                <strong>{percent(part.no_fault.share)}</strong>{" "}
                <span className="text-soft">
                  {part.no_fault.count} of {part.no_fault.total}
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
