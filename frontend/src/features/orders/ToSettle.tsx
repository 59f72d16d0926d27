import { useState } from "react";
import { isProblem } from "@/api/client";
import { shortDay } from "@/lib/format";
import { Button } from "@/ui/Button";
import { type Happened, type Order, useSettle } from "./orders.queries";

/** What each answer that waits can be answered with: taken, kept waiting for, or cancelled. */
const CHOICES: Record<string, { take: string; keep: string; drop: string }> = {
  short: { take: "Take these, cancel the rest", keep: "Wait for the rest", drop: "Cancel them all" },
  substitute: { take: "Take the other part", keep: "Insist on this one", drop: "Cancel it" },
  price: { take: "Pay it", keep: "Insist on our price", drop: "Cancel it" },
};

/** Answers of the supplier that a lead takes or refuses. */
export function ToSettle({ order, mayDecide }: { order: Order; mayDecide: boolean }) {
  if (order.to_settle.length === 0) return null;
  return (
    <section className="mt-3 border-2 border-thin p-3" aria-label="To settle">
      <h3 className="font-sans text-[1rem] font-semibold">The supplier offers something else</h3>
      {order.to_settle.map((item) => (
        <Offer key={item.answer_id} item={item} mayDecide={mayDecide} />
      ))}
    </section>
  );
}

function Offer({ item, mayDecide }: { item: Happened; mayDecide: boolean }) {
  const [words, setWords] = useState("");
  const settle = useSettle();
  const problem = isProblem(settle.error) ? settle.error : null;
  const choices = CHOICES[item.reply ?? ""] ?? { take: "Take it", keep: "Refuse it", drop: "Cancel it" };
  const id = item.answer_id ?? 0;
  return (
    <div className="mt-1 border-t border-dotted border-rule pt-1">
      <p>
        {item.words} <span className="text-soft">{shortDay(item.on)}</span>
      </p>
      {mayDecide ? (
        <>
          <div className="mt-1 flex flex-wrap gap-2">
            <Button look="main" onClick={() => settle.mutate({ id, accept: true, cancel: false, words })}>
              {choices.take}
            </Button>
            <Button onClick={() => settle.mutate({ id, accept: false, cancel: false, words })}>{choices.keep}</Button>
            <Button onClick={() => settle.mutate({ id, accept: false, cancel: true, words })}>{choices.drop}</Button>
          </div>
          <label className="mt-2 flex items-baseline gap-2">
            <span className="whitespace-nowrap text-soft">Why, where something is cancelled</span>
            <input
              className="w-full border-b border-soft bg-transparent px-1"
              value={words}
              onChange={(event) => setWords(event.target.value)}
            />
          </label>
          {problem && (
            <p role="alert" className="mt-1 font-semibold text-short">
              {problem.faults[0]?.message ?? problem.detail}
            </p>
          )}
        </>
      ) : (
        <p className="text-soft">A lead settles it.</p>
      )}
    </div>
  );
}
