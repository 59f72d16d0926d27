import { useState } from "react";
import type { Schemas } from "@/api/client";
import { figure, money } from "@/lib/format";
import { Button } from "@/ui/Button";
import { Computing } from "@/ui/Computing";
import { type Change, useRehearsed } from "./scenarios.queries";

type Rehearsal = Schemas["RehearsalView"];

/** A scenario played forward like the plan, beside it; asked for by hand, for it takes a while. */
export function Rehearsed({ changes, currency }: { changes: Change[]; currency: string }) {
  const [asked, setAsked] = useState<string | null>(null);
  const key = JSON.stringify(changes);
  const playing = asked === key;
  const planned = useRehearsed([], playing);
  const scenario = useRehearsed(changes, playing);
  if (!playing) {
    return (
      <p className="mt-3">
        <Button onClick={() => setAsked(key)}>Rehearse it</Button>{" "}
        <span className="text-soft">two years, played beside the plan</span>
      </p>
    );
  }
  const failed = planned.error ?? scenario.error;
  if (failed) return <p className="mt-3 text-short">It could not be played: {failed.message}</p>;
  if (!planned.data || !scenario.data) {
    return <Computing what="Playing it beside the plan" queryKey={["scenario", "rehearsed", changes]} />;
  }
  return <Beside planned={planned.data} scenario={scenario.data} currency={currency} />;
}

function Beside({ planned, scenario, currency }: { planned: Rehearsal; scenario: Rehearsal; currency: string }) {
  const met = ({ whole }: Rehearsal): string =>
    whole.fill ? `${(whole.fill.value * 100).toFixed(1)} ± ${(whole.fill.error * 100).toFixed(2)}` : "nobody asked";
  const rows: [string, (one: Rehearsal) => string][] = [
    ["Met at once, of 100", met],
    ["Machine-days lost a year", (one) => figure(one.whole.expected_waiting.value)],
    ["Orders a year", (one) => figure(one.whole.orders_a_year.value)],
    [
      "Spent in the first year",
      (one) =>
        `${money(Math.round(one.money.median), currency)} (${figure(one.money.low)} to ${figure(one.money.high)})`,
    ],
    ["On the shelves", (one) => money(Math.round(one.stock_value.value), currency)],
  ];
  return (
    <table className="mt-3 w-full">
      <caption className="text-left font-semibold">
        Rehearsed: {scenario.years} years, {scenario.runs} times, the same luck for both
      </caption>
      <thead>
        <tr className="border-b border-ink">
          <td />
          <th scope="col" className="text-right">
            The plan
          </th>
          <th scope="col" className="text-right">
            What if
          </th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([name, words]) => (
          <tr key={name} className="border-b border-dotted border-rule">
            <th scope="row" className="py-0.5 font-normal">
              {name}
            </th>
            <td className="text-right">{words(planned)}</td>
            <td className="text-right font-semibold">{words(scenario)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
