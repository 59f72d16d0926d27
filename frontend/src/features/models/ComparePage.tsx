import { Fragment, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { Failed, Nothing, Waiting } from "@/ui/Notice";
import { useComparison } from "./models.queries";

/** Two to four models beside one another; at first only what differs, and the parts they share. */
export function ComparePage() {
  const [params] = useSearchParams();
  const ids = (params.get("models") ?? "").split(",").map(Number).filter(Boolean);
  const compared = useComparison(ids);
  const [all, setAll] = useState(false);
  if (ids.length < 2) return <Nothing>Tick two to four models in the index, then compare them.</Nothing>;
  if (compared.isError) return <Failed title="Cannot compare" detail={compared.error.message} />;
  if (!compared.data) return <Waiting what="Laying the pages side by side" />;
  const { models, shared } = compared.data;
  const rows = compared.data.rows.filter((row) => all || row.differs);
  const groups = [...new Set(rows.map((row) => row.group))];
  return (
    <article className="p-4">
      <header className="flex items-baseline gap-4">
        <h1 className="text-[1.75rem]">Compare</h1>
        <label className="flex items-baseline gap-1.5">
          <input type="checkbox" checked={all} onChange={() => setAll(!all)} />
          also what is equal ({compared.data.rows.length - compared.data.rows.filter((row) => row.differs).length})
        </label>
      </header>
      {shared.length > 0 && (
        <section className="mt-3 border-l-4 border-accent bg-pick px-3 py-2">
          <h2 className="font-sans text-base">Parts that go into more than one of them</h2>
          <ul>
            {shared.map((part) => (
              <li key={part.part_number}>
                <Link className="code font-semibold text-accent underline" to={`/outlook/${part.part_number}`}>
                  {part.part_number}
                </Link>{" "}
                {part.part_name}
                {part.models.length < models.length && (
                  <span className="text-soft">
                    {" "}
                    ({part.models.map((id) => models.find((model) => model.model_id === id)?.name).join(", ")})
                  </span>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
      <table className="mt-4 w-full text-[0.95rem]">
        <thead>
          <tr className="border-b border-ink">
            <th scope="col" className="w-[18%] py-1">
              <span className="sr-only">What</span>
            </th>
            {models.map((model) => (
              <th key={model.model_id} scope="col" className="py-1 pr-3 font-serif text-[1.05rem]">
                <Link className="underline decoration-rule" to={`/models/${model.model_id}`}>
                  {model.name}
                </Link>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {groups.map((group) => (
            <Fragment key={group}>
              <tr>
                <th scope="colgroup" colSpan={models.length + 1} className="pt-3 pb-0.5 text-soft">
                  {group}
                </th>
              </tr>
              {rows
                .filter((row) => row.group === group)
                .map((row) => (
                  <tr key={row.label} className="border-b border-dotted border-rule align-baseline">
                    <th scope="row" className="py-1 pr-3 font-semibold">
                      {row.label}
                    </th>
                    {row.values.map((value, place) => (
                      <td key={models[place]?.model_id} className={`py-1 pr-3 ${row.differs ? "" : "text-soft"}`}>
                        {value}
                      </td>
                    ))}
                  </tr>
                ))}
            </Fragment>
          ))}
        </tbody>
      </table>
      {rows.length === 0 && <p className="mt-3">Nothing that is recorded differs.</p>}
    </article>
  );
}
