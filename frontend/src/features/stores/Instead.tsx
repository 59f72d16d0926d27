import { useState } from "react";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { Button } from "@/ui/Button";
import { type Shelf, useDropSubstitute, useSetSubstitute } from "./stores.queries";

/** What may be fitted in place of the part, first where its shelf is empty; a lead sets it. */
export function Instead({ shelf, mayChange }: { shelf: Shelf; mayChange: boolean }) {
  const [adding, setAdding] = useState(false);
  const drop = useDropSubstitute(shelf.part_number);
  if (shelf.instead.length === 0 && !mayChange) return null;
  const empty = shelf.on_hand === 0;
  return (
    <section className="mt-4" aria-label="In its place">
      <h3 className="flex items-baseline border-b border-ink font-serif text-[1.1rem]">
        In its place
        {mayChange && (
          <Button look="quiet" className="ml-auto py-0! font-sans" onClick={() => setAdding(true)}>
            Add a substitute
          </Button>
        )}
      </h3>
      {shelf.instead.length === 0 && <p className="text-soft">Nothing is known to stand in for it.</p>}
      <ul>
        {shelf.instead.map((other) => (
          <li key={other.number} className="flex items-baseline border-b border-dotted border-rule py-0.5">
            <span>
              <span className="code">{other.number}</span> {other.name}
              <span className="block text-[0.93rem] text-soft">
                {other.reason}
                {other.two_way ? "; either serves for the other" : "; not the other way round"}
              </span>
            </span>
            <span
              className={`ml-auto pl-3 text-right whitespace-nowrap ${empty && other.here > 0 ? "font-semibold" : ""}`}
            >
              {other.here} free here, {other.elsewhere} elsewhere
            </span>
            {mayChange && (
              <Button
                look="quiet"
                className="py-0!"
                aria-label={`Remove ${other.number}`}
                onClick={() => drop.mutate(other.number)}
              >
                Remove
              </Button>
            )}
          </li>
        ))}
      </ul>
      {adding && <AddSheet shelf={shelf} onClose={() => setAdding(false)} />}
    </section>
  );
}

function AddSheet({ shelf, onClose }: { shelf: Shelf; onClose: () => void }) {
  const [number, setNumber] = useState("");
  const [reason, setReason] = useState("");
  const [twoWay, setTwoWay] = useState(false);
  const add = useSetSubstitute(shelf.part_number);
  return (
    <AskSheet
      title={`In place of ${shelf.part_name}`}
      about="What is equivalent both ways shares one reorder point; what may only stand in keeps its own. No machine may refuse it."
      label="Let it stand in"
      sending={add}
      fields={["number", "reason"]}
      onSend={() => add.mutate({ number: number.trim(), two_way: twoWay, reason }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <>
          <ValueField
            label="Part number"
            className="code"
            autoFocus
            value={number}
            fault={problem?.at("number")}
            onValue={setNumber}
          />
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={twoWay} onChange={(event) => setTwoWay(event.target.checked)} />
            and the other way round
          </label>
          <ValueField
            label="Why"
            hint="As it will be read at the bench: a faster module serves a slower slot."
            value={reason}
            fault={problem?.at("reason")}
            onValue={setReason}
          />
        </>
      )}
    </AskSheet>
  );
}
