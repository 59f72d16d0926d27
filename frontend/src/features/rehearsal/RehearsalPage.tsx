import { Link, useOutletContext, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { figure, money, plural } from "@/lib/format";
import { useWalk } from "@/lib/useWalk";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { Spread } from "@/ui/Spread";
import { RulePlate } from "./RulePlate";
import { type Rehearsal, useRehearsals, useRules } from "./rehearsal.queries";
import { error, ofHundred, played, ruleName } from "./words";

type Session = Schemas["SessionState"];

/** The rehearsal: what the plan, other aims and rules of thumb do when they are played forward from today. */
export default function RehearsalPage() {
  const session = useOutletContext<Session>();
  const rules = useRules().data ?? ["plan"];
  const { plan, rows: all } = useRehearsals(rules);
  // The aim that the plan has for every part would be told twice.
  const rows = all.filter(({ rule }) => !plan.data || plan.data.aim_settings > 0 || rule !== aimRule(plan.data));
  const [search, setSearch] = useSearchParams();
  const chosen = search.get("rule") ?? "plan";
  const choose = (rule: string): void => setSearch({ rule }, { replace: true });
  useWalk(
    rows.map((row) => row.rule),
    chosen,
    choose,
  );
  if (plan.isError) {
    return <FailedToRead title="Nothing to play" query={plan} />;
  }
  if (!plan.data) return <Computing what="Playing the plan forward" queryKey={["rehearsal", "rule", "plan"]} />;
  const found = rows.find((row) => row.rule === chosen)?.query;
  return (
    <Spread
      name="rehearsal"
      share={58}
      least={44}
      leftLabel="Rules"
      rightLabel="Chosen rule"
      left={
        <div className="p-4">
          <h1 className="text-[1.75rem]">Rehearsal</h1>
          <p className="mt-1 max-w-[62ch] font-serif text-[1.2rem] leading-snug">
            Played forward from today for {figure(plan.data.years)} years, {figure(plan.data.runs)} times:{" "}
            <strong>{played(plan.data)}</strong>.
          </p>
          <Left plan={plan.data} />
          <RuleTable rows={rows} chosen={chosen} onChoose={choose} currency={session.currency} />
          <p className="mt-3 max-w-[80ch] text-[0.93rem] text-soft">
            Requests come as often as the forecast says, at a rate drawn anew in every run from what is not known about
            it; they are the same for every rule, so that differences are sharp. Reviews, boats, lead times, packs and
            shelf lives are the company's own. ± is the error of playing so many times. Counted from the first day on
            which an order of today is there; machine-days and orders are of a year, money of the first year at the
            price of one. Left out: what would be learnt on the way, suppliers that ship short, and changes nobody
            planned. In the second year requests go on as at the end of the first.
          </p>
          <p className="mt-2 flex gap-4">
            <Link className="text-accent underline" to="/outlook/money">
              Money
            </Link>
            <Link className="text-accent underline" to="/outlook">
              Back to the outlook
            </Link>
          </p>
        </div>
      }
      right={
        found?.data ? (
          <RulePlate
            found={found.data}
            beside={chosen === "plan" ? null : plan.data}
            currency={session.currency}
            mayChange={session.user?.role === "lead"}
          />
        ) : found?.isError ? (
          <FailedToRead title="Not played" query={found} />
        ) : (
          <Computing what={`Playing: ${ruleName(chosen)}`} queryKey={["rehearsal", "rule", chosen]} />
        )
      }
    />
  );
}

const aimRule = (plan: Rehearsal): string => `aim-${plan.target.value.toFixed(2)}`;

/** What the figures leave out, said before they are read. */
function Left({ plan }: { plan: Rehearsal }) {
  if (plan.left_out === 0) return null;
  return (
    <p className="text-thin">
      {plural(plan.left_out, "stock part")} of which nothing can be forecast {plan.left_out === 1 ? "is" : "are"} in
      none of these figures.
    </p>
  );
}

interface RuleTableProps {
  rows: ReturnType<typeof useRehearsals>["rows"];
  chosen: string;
  onChoose: (rule: string) => void;
  currency: string;
}

function RuleTable({ rows, chosen, onChoose, currency }: RuleTableProps) {
  const head = ["Met at once", "Machine-days lost", "Orders", "Spent in a year", "On the shelves"];
  return (
    <table className="mt-3 w-full">
      <thead>
        <tr className="border-b border-ink align-bottom">
          <th scope="col" className="py-1">
            Rule
          </th>
          {head.map((name) => (
            <th key={name} scope="col" className="pl-2 text-right">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(({ rule, query }) => (
          <tr
            key={rule}
            aria-current={rule === chosen ? "true" : undefined}
            className={`border-b border-dotted border-rule align-top ${rule === chosen ? "bg-pick" : ""}`}
          >
            <th scope="row" className="py-1.5">
              <button
                type="button"
                className="min-h-[25px] text-left text-accent underline"
                onClick={() => onChoose(rule)}
              >
                {ruleName(rule)}
              </button>
            </th>
            {query?.data ? (
              <Figures found={query.data} currency={currency} />
            ) : (
              <Missing failed={query?.isError ?? false} />
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Missing({ failed }: { failed: boolean }) {
  return (
    <td colSpan={5} className="py-1.5 pl-2 text-right text-soft">
      {failed ? "not played" : "is played next"}
    </td>
  );
}

function Figures({ found, currency }: { found: Rehearsal; currency: string }) {
  const { whole } = found;
  return (
    <>
      <td className="py-1.5 pl-2 text-right font-semibold whitespace-nowrap">
        {ofHundred(whole.fill)}
        {whole.fill && <span className="font-normal text-soft"> ± {error(whole.fill)}</span>}
      </td>
      <td className="py-1.5 pl-2 text-right whitespace-nowrap">
        {figure(whole.expected_waiting.value)}{" "}
        <span className="text-soft">± {figure(whole.expected_waiting.error)}</span>
      </td>
      <td className="py-1.5 pl-2 text-right">{figure(whole.orders_a_year.value)}</td>
      <td className="py-1.5 pl-2 text-right whitespace-nowrap">
        {money(Math.round(found.money.median), currency)}
        <span className="block text-[0.88rem] text-soft">
          {figure(found.money.low)} to {figure(found.money.high)}
        </span>
      </td>
      <td className="py-1.5 pl-2 text-right">{money(Math.round(found.stock_value.value), currency)}</td>
    </>
  );
}
