import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { counted, figure, money, perHundred, plural } from "@/lib/format";
import { KIND_NAMES } from "@/lib/words";
import { useOthers } from "./outlook.queries";

type Other = Schemas["OtherPartView"];
const HEAD = "border-b border-ink pb-0.5 text-left align-bottom text-[0.9rem] font-normal text-soft";

/** Boards, palm rests and what else is ordered: by what was drawn, also in place of soldered and staked parts. */
export function Others({ currency }: { currency: string }) {
  const others = useOthers(true);
  if (!others.data || others.data.parts.length === 0) return null;
  const { depot, parts } = others.data;
  return (
    <section className="mt-5 px-4" aria-label="Other parts">
      <h2 className="text-[1.15rem]">Other parts</h2>
      <p className="text-[0.93rem] text-soft">
        By what was drawn of them, failures of soldered and staked parts they are ordered for among it; no ages are on
        record.
      </p>
      <table className="mt-1 w-full">
        <thead>
          <tr>
            <th scope="col" className={HEAD}>
              Part
            </th>
            <th scope="col" className={`${HEAD} pl-4 text-right!`}>
              Per 100 a year
            </th>
            <th scope="col" className={`${HEAD} pl-4 text-right!`}>
              Places
            </th>
            <th scope="col" className={`${HEAD} pl-4 text-right!`}>
              On the shelf + coming
            </th>
            <th scope="col" className={`${HEAD} pl-4`}>
              Kept
            </th>
          </tr>
        </thead>
        <tbody>
          {parts.map((part) => (
            <tr key={part.number} className="border-b border-dotted border-rule align-top">
              <td className="py-1">
                {depot ? (
                  <Link
                    className="inline-block min-h-[24px] font-semibold hover:underline"
                    to={`/stores/${encodeURIComponent(part.number)}/${depot}`}
                  >
                    {part.name}
                  </Link>
                ) : (
                  <strong>{part.name}</strong>
                )}
                <span className="block text-[0.93rem] text-soft">
                  <span className="code">{part.number}</span>,{" "}
                  {(KIND_NAMES as Record<string, string>)[part.kind] ?? part.kind.replace("_", " ")}
                </span>
              </td>
              <td className="py-1 pl-4 text-right">
                {part.rate === null ? "" : perHundred(part.rate)}
                <span className="block text-[0.9rem] text-soft">{drawnWords(part)}</span>
              </td>
              <td className="py-1 pl-4 text-right">{figure(part.places)}</td>
              <td className="py-1 pl-4 text-right">
                {figure(part.on_hand)}
                {part.coming > 0 && ` + ${figure(part.coming)}`}
                {part.promised > 0 && <span className="block text-[0.9rem] text-soft">{part.promised} promised</span>}
              </td>
              <td className="py-1 pl-4">{keptWords(part, currency)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function drawnWords(part: Other): string {
  if (part.rate === null) return "cannot be said: no machine takes it";
  const years = `${figure(part.served_years)} place-years`;
  if (part.direct + part.moved === 0) return `none in ${years}, at most ${perHundred(part.high ?? 0)}`;
  const moved = part.moved > 0 ? `, ${counted(part.moved)} for soldered or staked` : "";
  return `${counted(part.direct + part.moved)} in ${years}${moved}`;
}

function keptWords(part: Other, currency: string) {
  if (part.order_at === null) return <span className="text-thin">not known</span>;
  const rule = `order at ${part.order_at}, at most ${part.most}`;
  if (part.quantity === 0) return rule;
  const cost = money(part.cost, currency);
  const never = part.direct + part.moved === 0;
  return (
    <>
      {never ? (
        `the aim would keep ${part.quantity}, ${cost}`
      ) : (
        <strong>
          order {plural(part.quantity, "part")}, {cost}
        </strong>
      )}
      <span className="block text-[0.9rem] text-soft">{never ? "none was ever drawn: a lead decides" : rule}</span>
    </>
  );
}
