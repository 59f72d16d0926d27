import { Link, useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { money, percent, plural } from "@/lib/format";
import { KIND_NAMES, kindColour } from "@/lib/words";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing, Waiting } from "@/ui/Notice";
import { useLineUp } from "./models.queries";

/** Which stock parts to keep at all, what each covers, and what fewer lines would save a year. */
export function LineUpPage() {
  const lineUp = useLineUp();
  const session = useOutletContext<Schemas["SessionState"]>();
  if (lineUp.isError) return <FailedToRead title="No line-up" query={lineUp} />;
  if (!lineUp.data) return <Waiting what="Choosing the parts to keep" />;
  if (lineUp.data.kinds.length + lineUp.data.unsaid.length === 0)
    return <Nothing>Nothing is in service yet, so there is nothing to choose.</Nothing>;
  const saved = lineUp.data.kinds.reduce((sum, kind) => sum + Number(kind.saved), 0);
  return (
    <article className="p-4">
      <h1 className="text-[1.75rem]">Line-up</h1>
      <p className="max-w-[70ch]">
        The parts worth keeping at all, so that every machine is served by one that is no worse than what it has.{" "}
        <strong>{money(saved, session.currency)} a year</strong> less than one part per need. Cost: yearly demand at its
        price, {percent(lineUp.data.holding_share)} of the price a year for every part of the level S held, and{" "}
        {money(Number(lineUp.data.line_cost), session.currency)} a year for each line on the shelf.
      </p>
      {lineUp.data.unsaid.length > 0 && (
        <div className="mt-2 max-w-[70ch] border-l-4 border-rule pl-3">
          Not among them, because nothing can be said of their demand yet (
          {plural(lineUp.data.unsaid.flatMap((model) => model.places).length, "need")}
          ): <ByModel needs={lineUp.data.unsaid} />
        </div>
      )}
      {lineUp.data.kinds.map((kind) => (
        <section key={kind.kind} className="mt-4">
          <h2 className="flex items-baseline justify-between border-b border-ink text-[1.15rem]">
            <span>
              <span
                aria-hidden="true"
                className="mr-2 inline-block size-2.5"
                style={{ background: kindColour(kind.kind) }}
              />
              {KIND_NAMES[kind.kind]}
            </span>
            <span className="font-sans text-base font-normal">
              {money(Number(kind.cost), session.currency)} a year, today{" "}
              {money(Number(kind.cost_today), session.currency)}
            </span>
          </h2>
          <table className="w-full text-[0.95rem]">
            <thead>
              <tr className="border-b border-rule">
                <th scope="col" className="w-[190px] py-0.5">
                  Keep
                </th>
                <th scope="col">Covers</th>
                <th scope="col" className="w-[70px] text-right">
                  Level S
                </th>
                <th scope="col" className="w-[80px] text-right">
                  Price
                </th>
              </tr>
            </thead>
            <tbody>
              {kind.kept.map((part) => (
                <tr key={part.part_number} className="border-b border-dotted border-rule align-baseline">
                  <th scope="row" className="py-1 pr-3 font-normal">
                    <Link className="code font-semibold text-accent underline" to={`/outlook/${part.part_number}`}>
                      {part.part_number}
                    </Link>
                    <span className="block text-soft">{part.part_name}</span>
                  </th>
                  <td className="py-1 pr-3">
                    {plural(part.needs, "need")} of {plural(part.covers.length, "model")}
                    <ByModel needs={part.covers} />
                  </td>
                  <td className="text-right">{part.level}</td>
                  <td className="text-right whitespace-nowrap">{money(Number(part.price), session.currency)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {kind.dropped.length > 0 && (
            <p className="mt-1">
              No longer needed: <span className="code">{kind.dropped.join(", ")}</span>
            </p>
          )}
        </section>
      ))}
    </article>
  );
}

/** Needs by model, a line each. */
const ByModel = ({ needs }: { needs: Schemas["ModelNeeds"][] }) => (
  <ul className="text-soft">
    {needs.map((one) => (
      <li key={one.model}>
        <span className="text-ink">{one.model}</span>: {one.places.join(", ")}
      </li>
    ))}
  </ul>
);
