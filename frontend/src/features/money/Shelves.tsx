import { useState } from "react";
import { Link } from "react-router";
import { isProblem } from "@/api/client";
import { money as amount, plural } from "@/lib/format";
import { kindColour } from "@/lib/words";
import { Button } from "@/ui/Button";
import { Sheet } from "@/ui/Sheet";
import { type Money, type PartMoney, useGiveBack, useTakeMoney } from "./money.queries";

/** No aim is set below this share. */
const LEAST_AIM = 0.5;

export interface ShelvesProps {
  found: Money;
  sum: number;
  currency: string;
  mayChange: boolean;
}

const total = (parts: PartMoney[], of: (part: PartMoney) => number): number =>
  parts.reduce((all, part) => all + of(part), 0);

/** What the chosen sum means for the shelves as they stand: purchases, transfers, and what is over. */
export function Shelves({ found, sum, currency, mayChange }: ShelvesProps) {
  const [taking, setTaking] = useState(false);
  const [giving, setGiving] = useState(false);
  const parts = found.parts;
  const ended = parts.filter((part) => !part.sold);
  const never = parts.filter((part) => !part.kept);
  return (
    <div className="p-4">
      <h2 className="text-[1.5rem]">From today's shelves to this sum</h2>
      <p className="mt-1">
        Order{" "}
        {plural(
          total(parts, (part) => part.buy),
          "part",
        )}{" "}
        for {amount(Math.round(total(parts, (part) => part.buy_cost)), currency)}; move{" "}
        {total(parts, (part) => part.load)} from the depot to the sites; let {total(parts, (part) => part.above)} for{" "}
        {amount(Math.round(total(parts, (part) => part.above_value)), currency)} run down or give them back.
      </p>
      {never.length > 0 && (
        <p className="mt-1 text-thin">
          {plural(never.length, "part")} would not be kept at all: bought when needed, and who asks waits.
        </p>
      )}
      {ended.length > 0 && (
        <p className="mt-1 text-thin">
          {ended.map((part) => part.number).join(", ")}: sold no more, so that no sum brings any.
        </p>
      )}
      <p className="mt-3 flex flex-wrap gap-3">
        {mayChange && (
          <Button look="main" onClick={() => setTaking(true)}>
            Use these aims
          </Button>
        )}
        {mayChange && found.own_aims > 0 && (
          <Button onClick={() => setGiving(true)}>All by the company's aim again</Button>
        )}
        <a
          className="self-center text-accent underline"
          href={`/api/v1/money/list.csv?budget=${Math.round(sum)}`}
          download
        >
          The list as CSV
        </a>
      </p>
      <Parts parts={parts} />
      {taking && <Taking sum={sum} parts={parts} onClose={() => setTaking(false)} />}
      {giving && <Giving count={found.own_aims} onClose={() => setGiving(false)} />}
    </div>
  );
}

function Parts({ parts }: { parts: PartMoney[] }) {
  const head = ["Part", "Met now", "At this sum", "Order at, at most", "Order", "Load", "Over"];
  return (
    <table className="mt-3 w-full">
      <thead>
        <tr className="border-b border-ink align-bottom">
          {head.map((name, place) => (
            <th key={name} scope="col" className={`py-1 ${place ? "pl-2 text-right" : ""}`}>
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {parts.map((part) => (
          <tr key={part.number} className="border-b border-dotted border-rule">
            <th scope="row" className="py-0.5 font-normal">
              <span
                aria-hidden="true"
                className="mr-2 inline-block h-2.5 w-2.5"
                style={{ background: kindColour(part.kind) }}
              />
              <Link
                className="code inline-block min-h-[25px] text-accent underline"
                to={`/outlook/${encodeURIComponent(part.number)}`}
              >
                {part.number}
              </Link>
            </th>
            <td className="pl-2 text-right text-soft">{(part.now * 100).toFixed(0)}</td>
            <td className="pl-2 text-right font-semibold">{part.kept ? (part.aim * 100).toFixed(0) : "when needed"}</td>
            <td className="pl-2 text-right whitespace-nowrap">
              {part.order_at}, {part.most}
            </td>
            <td className="pl-2 text-right">{part.buy || "–"}</td>
            <td className="pl-2 text-right">{part.load || "–"}</td>
            <td className="pl-2 text-right">{part.above || "–"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Taking({ sum, parts, onClose }: { sum: number; parts: PartMoney[]; onClose: () => void }) {
  const take = useTakeMoney();
  const problem = isProblem(take.error) ? take.error : null;
  const never = parts.filter((part) => !part.kept).length;
  const low = parts.filter((part) => part.kept && part.aim < LEAST_AIM).length;
  return (
    <Sheet
      open
      onClose={onClose}
      title="Use these aims"
      about={`Each of ${plural(parts.length, "part")} gets an aim of its own, the requests it meets at this sum; reorder points and levels follow from today on, with every site's floor kept. The company's aim stays for parts that come later.`}
    >
      {never > 0 && <p className="text-thin">{plural(never, "part")} will be bought when needed.</p>}
      {low > 0 && (
        <p className="text-thin">
          {plural(low, "part meets", "parts meet")} fewer than 50 of 100 at this sum: no aim is lower than that, so more
          of them is kept.
        </p>
      )}
      {problem && (
        <p role="alert" className="text-short">
          {problem.detail}
        </p>
      )}
      <div className="mt-3 flex gap-3">
        <Button look="main" disabled={take.isPending} onClick={() => take.mutate(sum, { onSuccess: onClose })}>
          Use them
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </Sheet>
  );
}

function Giving({ count, onClose }: { count: number; onClose: () => void }) {
  const give = useGiveBack();
  const problem = isProblem(give.error) ? give.error : null;
  return (
    <Sheet
      open
      onClose={onClose}
      title="All by the company's aim again"
      about={`${plural(count, "kind or part has", "kinds and parts have")} an aim of ${count === 1 ? "its" : "their"} own. Parts give it up from today on; it stays in the record.`}
    >
      {problem && (
        <p role="alert" className="text-short">
          {problem.detail}
        </p>
      )}
      <div className="mt-3 flex gap-3">
        <Button look="main" disabled={give.isPending} onClick={() => give.mutate(undefined, { onSuccess: onClose })}>
          Give them up
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </Sheet>
  );
}
