import { Link } from "react-router";
import { counted, figure, plural } from "@/lib/format";
import type { KindRates } from "./rates.queries";

/** Lines of parts that differ, beside that of their kind: more could not be told apart. */
export const MOST_LINES = 3;

/** The shape each part's own failures pay for; parts that fail in another way than their kind first. */
export function Groups({ rates }: { rates: KindRates }) {
  if (rates.groups.length < 2) return null;
  const rows = rates.groups.toSorted((a, b) => Number(b.differs) - Number(a.differs));
  const apart = rows.filter((group) => group.differs).length;
  return (
    <section className="mt-4" aria-labelledby="groups">
      <h3 id="groups" className="text-[1.1rem]">
        Shape by part
      </h3>
      <p className="text-[0.93rem] text-soft">
        {apart === 0
          ? "No part is known to fail in another way than its kind."
          : `${plural(apart, "part")} ${apart === 1 ? "fails" : "fail"} in another way than ${apart === 1 ? "its" : "their"} kind: ${apart > MOST_LINES ? `the ${MOST_LINES} with most failures are ` : ""}dashed above.`}{" "}
        Below 1 parts die early, above 1 they wear out. Each leans on its kind as far as its own failures leave it in
        doubt.
      </p>
      <table className="mt-1 w-full">
        <thead>
          <tr className="border-b border-ink">
            <th scope="col" className="py-0.5 pr-3">
              Part
            </th>
            <th scope="col" className="pr-3 text-right">
              Failed
            </th>
            <th scope="col" className="pr-3 text-right">
              Shape
            </th>
            <th scope="col" className="text-right">
              90% within
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((group) => (
            <tr key={group.part} className="border-b border-dotted border-rule">
              <th scope="row" className="py-0.5 pr-3 font-normal">
                <Link className="code inline-block min-h-[25px] text-accent underline" to={`/outlook/${group.part}`}>
                  {group.part}
                </Link>
                {group.differs && <strong className="ml-2 text-short">differs</strong>}
              </th>
              <td className="pr-3 text-right">{counted(group.failures)}</td>
              <td className="pr-3 text-right font-semibold">{figure(group.shape, 2)}</td>
              <td className="text-right whitespace-nowrap">
                {figure(group.low, 2)} – {figure(group.high, 2)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
