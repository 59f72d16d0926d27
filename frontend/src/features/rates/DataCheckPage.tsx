import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "@/api/client";
import { day, figure, plural } from "@/lib/format";
import { useWalk } from "@/lib/useWalk";
import { KIND_NAMES } from "@/lib/words";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { useDataChecks } from "./rates.queries";

type Check = Schemas["DataCheckView"];

/** What in the record the rates count in part, wrongly or not at all: what it does, how many rows, and which. */
export default function DataCheckPage() {
  const { check: asked } = useParams();
  const found = useDataChecks();
  const navigate = useNavigate();
  const checks = found.data?.checks ?? [];
  const chosen = checks.find((check) => check.key === asked) ?? checks.find((check) => check.count > 0);
  useWalk(
    checks.map((check) => check.key),
    chosen?.key ?? null,
    (key) => void navigate(`/rates/data/${key}`),
  );
  if (found.isError) {
    return <FailedToRead title="No data check" query={found} />;
  }
  if (!found.data) return <Computing what="Looking through every life" queryKey={["rates", "data-check"]} />;
  return (
    <Spread
      name="data-check"
      share={55}
      least={36}
      leftLabel="Checks"
      rightLabel="Rows"
      left={<Checks checks={checks} chosen={chosen?.key} />}
      right={chosen ? <Rows check={chosen} /> : <Nothing>Nothing in the record is odd.</Nothing>}
    />
  );
}

function Checks({ checks, chosen }: { checks: Check[]; chosen: string | undefined }) {
  const out = checks.filter((check) => check.left_out).reduce((sum, check) => sum + check.count, 0);
  const odd = checks.filter((check) => !check.left_out).reduce((sum, check) => sum + check.count, 0);
  return (
    <div className="p-4">
      <h1 className="text-[1.75rem]">Data check</h1>
      <p className="mt-1 max-w-[60ch] font-serif text-[1.2rem] leading-snug">
        <strong>{plural(out, "life", "lives")}</strong> {out === 1 ? "carries" : "carry"} nothing into the rates;{" "}
        <strong>{figure(odd)}</strong> {odd === 1 ? "counts" : "count"} in part or too long.
      </p>
      <table className="mt-3 w-full">
        <thead>
          <tr className="border-b border-ink">
            <th scope="col" className="py-1">
              What is odd, and what it does to the rates
            </th>
            <th scope="col" className="pl-3 text-right">
              Rows
            </th>
          </tr>
        </thead>
        <tbody>
          {checks.map((check) => (
            <tr
              key={check.key}
              aria-current={check.key === chosen ? "true" : undefined}
              className={`border-b border-dotted border-rule align-top ${check.key === chosen ? "bg-pick" : ""}`}
            >
              <th scope="row" className="py-1.5 font-normal">
                <Link className="text-accent underline" to={`/rates/data/${check.key}`}>
                  {check.title}
                </Link>
                <span className="block text-[0.93rem] text-soft">
                  {check.effect} {check.left_out && <strong>Left out.</strong>}
                </span>
              </th>
              <td className="py-1.5 pl-3 text-right font-semibold">{figure(check.count)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-3 text-[0.93rem] text-soft">
        Lives that overlap, or end before they begin, are refused when they are written or imported, row by row.{" "}
        <Link className="text-accent underline" to="/rates">
          Back to the rates
        </Link>
      </p>
    </div>
  );
}

function Rows({ check }: { check: Check }) {
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">{check.title}</h2>
      {check.count === 0 && <p className="text-soft">No row is like that.</p>}
      {check.count > check.rows.length && (
        <p className="text-soft">
          The first {check.rows.length} of {figure(check.count)}.
        </p>
      )}
      {check.rows.length > 0 && (
        <table className="mt-2 w-full">
          <thead>
            <tr className="border-b border-ink">
              <th scope="col" className="py-1">
                Machine
              </th>
              <th scope="col">Part</th>
              <th scope="col">Day</th>
              <th scope="col">Log</th>
            </tr>
          </thead>
          <tbody>
            {check.rows.map((row) => (
              <tr
                key={`${row.tag}-${row.part}-${row.kind}-${row.day}-${row.incident_id}`}
                className="border-b border-dotted border-rule"
              >
                <th scope="row" className="py-0.5 font-normal">
                  <Link className="code text-accent underline" to={`/ledger?q=${encodeURIComponent(row.tag)}`}>
                    {row.tag}
                  </Link>
                </th>
                <td>
                  {row.part === "" ? (
                    `${KIND_NAMES[row.kind] ?? row.kind}: none on record`
                  ) : (
                    <Link className="code text-accent underline" to={`/outlook/${encodeURIComponent(row.part)}`}>
                      {row.part}
                    </Link>
                  )}
                </td>
                <td>{day(row.day)}</td>
                <td>
                  {row.incident_id === null ? (
                    "no entry"
                  ) : (
                    <Link className="text-accent underline" to={`/ledger/${row.incident_id}`}>
                      entry
                    </Link>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </article>
  );
}
