import { useState } from "react";
import { Link, useOutletContext, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { MoneyCurve } from "@/charts/MoneyCurve";
import { waitingAt } from "@/charts/moneyAt";
import { money as amount, figure, plural } from "@/lib/format";
import { useKeys } from "@/lib/useKeys";
import { Button } from "@/ui/Button";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { TextField } from "@/ui/Field";
import { FigureTable } from "@/ui/FigureTable";
import { Spread } from "@/ui/Spread";
import { type Money, useMoney } from "./money.queries";
import { Shelves } from "./Shelves";
import { RULES, sentence } from "./words";

type Session = Schemas["SessionState"];

/** Money: what a sum tied up in stock buys, and what choosing it would mean. */
export default function MoneyPage() {
  const session = useOutletContext<Session>();
  const [search, setSearch] = useSearchParams();
  const asked = Number(search.get("sum"));
  const budget = asked > 0 ? asked : null;
  const [tables, setTables] = useState(false);
  const [dragged, setDragged] = useState<number | null>(null);
  const found = useMoney(budget);
  useKeys({ t: () => setTables((before) => !before) });
  if (found.isError) {
    return <FailedToRead title="No curve" query={found} />;
  }
  if (!found.data) return <Computing what="Weighing what money buys" queryKey={["money", budget]} />;
  const data = found.data;
  const choose = (sum: number): void => {
    setDragged(null);
    setSearch({ sum: String(Math.round(sum)) }, { replace: true });
  };
  const shown = dragged ?? budget ?? data.chosen.money;
  return (
    <Spread
      name="money"
      share={56}
      least={44}
      leftLabel="The curve"
      rightLabel="The chosen sum"
      left={
        <div className="p-4">
          <h1 className="text-[1.75rem]">Money</h1>
          <p className="mt-1 max-w-[62ch] font-serif text-[1.2rem] leading-snug">
            {sentence(
              data,
              shown,
              dragged === null ? data.chosen.waiting : waitingAt(data.curve, shown),
              session.currency,
            )}
          </p>
          {shown < data.least && (
            <p className="text-thin">
              Below {amount(Math.ceil(data.least), session.currency)} nothing is kept anywhere: so much is under way and
              owed whatever is kept.
            </p>
          )}
          {data.left_out > 0 && (
            <p className="text-thin">
              {plural(data.left_out, "stock part")} of which nothing can be forecast{" "}
              {data.left_out === 1 ? "is" : "are"} in none of these figures.
            </p>
          )}
          <FigureTable
            title="What money buys"
            aside="the least that any shelves can lose for it"
            shown={tables}
            onToggle={() => setTables(!tables)}
            columns={["Tied up", "machine-days lost a year"]}
            rows={data.curve.map((point) => [figure(point.money), figure(point.waiting, 1)])}
          >
            <MoneyCurve
              curve={data.curve}
              beside={data.beside.map((rule) => ({ ...rule, words: RULES[rule.name] ?? rule.name }))}
              chosen={shown}
              currency={session.currency}
              onMove={setDragged}
              onChoose={choose}
              title="Money tied up against machine-days lost a year; the table holds the figures"
            />
          </FigureTable>
          <SumForm key={Math.round(shown)} sum={shown} onChoose={choose} currency={session.currency} />
          <Beside found={data} currency={session.currency} />
          <p className="mt-3 max-w-[80ch] text-[0.93rem] text-soft">
            Tied up is the price of all parts on shelves and boats, on average. Each part goes from nothing kept, step
            by step, to where one more prevents least for its price; the steps of all parts, best first, make the curve.
            At a sum between two steps no shelves lose fewer than {figure(data.bound, 1)} machine-days, those chosen{" "}
            {figure(data.chosen.waiting, 1)}. Long run at today's rates; the rehearsal plays what comes on the way.
          </p>
          <p className="mt-2 flex gap-4">
            <Link className="text-accent underline" to="/outlook/rehearsal">
              Rehearsal
            </Link>
            <Link className="text-accent underline" to="/outlook">
              Back to the outlook
            </Link>
          </p>
        </div>
      }
      right={
        <Shelves
          found={data}
          sum={budget ?? data.chosen.money}
          currency={session.currency}
          mayChange={session.user?.role === "lead"}
        />
      }
    />
  );
}

function SumForm({ sum, onChoose, currency }: { sum: number; onChoose: (sum: number) => void; currency: string }) {
  const [text, setText] = useState(String(Math.round(sum)));
  const value = Number(text.replace(/[ ,]/g, ""));
  const wrong = text.trim() === "" || !Number.isFinite(value) || value < 0;
  return (
    <form
      className="mt-2 flex items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (!wrong) onChoose(value);
      }}
    >
      <TextField
        label={`Money tied up, ${currency}`}
        inputMode="numeric"
        value={text}
        onChange={(event) => setText(event.target.value)}
        fault={wrong ? "an amount of at least 0 was wanted" : undefined}
      />
      <Button type="submit" disabled={wrong}>
        Look there
      </Button>
    </form>
  );
}

function Beside({ found, currency }: { found: Money; currency: string }) {
  return (
    <table className="mt-4 w-full max-w-[640px]">
      <thead>
        <tr className="border-b border-ink">
          {["Beside it", "Tied up", "Machine-days lost a year", "Met at once"].map((name, place) => (
            <th key={name} scope="col" className={`py-1 ${place ? "text-right" : ""}`}>
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {[{ ...found.chosen, name: "chosen" }, ...found.beside].map((rule) => (
          <tr
            key={rule.name}
            className={`border-b border-dotted border-rule ${rule.name === "chosen" ? "bg-pick font-semibold" : ""}`}
          >
            <th scope="row" className="py-0.5 font-normal">
              {rule.name === "chosen" ? "the chosen sum" : (RULES[rule.name] ?? rule.name)}
            </th>
            <td className="text-right">{amount(Math.round(rule.money), currency)}</td>
            <td className="text-right">{figure(rule.waiting)}</td>
            <td className="text-right">{(rule.fill * 100).toFixed(1)} of 100</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
