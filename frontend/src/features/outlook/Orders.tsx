import { useState } from "react";
import { useForm } from "react-hook-form";
import { isProblem, type Schemas } from "@/api/client";
import { day } from "@/lib/format";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { type OpenLine, type Plate, useReceive } from "./outlook.queries";

function ReceiveSheet({ line, asOf, onClose }: { line: OpenLine; asOf: string; onClose: () => void }) {
  const { register, handleSubmit } = useForm({ defaultValues: { quantity: line.remaining, received_on: asOf } });
  const receive = useReceive();
  const problem = isProblem(receive.error) ? receive.error : null;
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Receive ${line.order_number}`}
      about={`${line.remaining} of ${line.quantity} are still to come. What arrives now goes on the shelf; the rest stays on order.`}
    >
      <form
        className="grid gap-4"
        onSubmit={handleSubmit((values) =>
          receive.mutate({ line_id: line.id, expected_version: line.version, ...values }, { onSuccess: onClose }),
        )}
      >
        <TextField
          label="Parts that arrived"
          type="number"
          min={1}
          autoFocus
          fault={problem?.at("quantity")}
          {...register("quantity", { valueAsNumber: true })}
        />
        <TextField label="Arrived on" type="date" fault={problem?.at("received_on")} {...register("received_on")} />
        {problem && problem.faults.length === 0 && (
          <p role="alert" className="font-semibold text-short">
            {problem.detail}
          </p>
        )}
        <div className="flex gap-3">
          <Button type="submit" look="main" disabled={receive.isPending}>
            Receive
          </Button>
          <Button onClick={onClose}>Cancel</Button>
        </div>
      </form>
    </Sheet>
  );
}

/** What is on its way, and receiving it. */
export function Orders({ plate, session }: { plate: Plate; session: Schemas["SessionState"] }) {
  const [receiving, setReceiving] = useState<OpenLine | null>(null);
  if (plate.open_lines.length === 0) return null;
  const mayReceive = session.user?.role !== "reader";
  return (
    <section className="mt-4" aria-label="On order">
      <h3 className="border-b border-rule pb-0.5 font-sans text-[1rem]">On order</h3>
      <ul>
        {plate.open_lines.map((line) => (
          <li key={line.id} className="flex items-baseline gap-3 border-b border-dotted border-rule py-1">
            <span className="code">{line.order_number}</span>
            <span>
              {line.remaining === line.quantity ? line.quantity : `${line.remaining} of ${line.quantity}`} due{" "}
              {day(line.expected_on)}
            </span>
            {line.overdue && <strong className="text-thin">overdue</strong>}
            {mayReceive && (
              <Button look="quiet" className="ml-auto py-0!" onClick={() => setReceiving(line)}>
                Receive
              </Button>
            )}
          </li>
        ))}
      </ul>
      {receiving && <ReceiveSheet line={receiving} asOf={plate.as_of} onClose={() => setReceiving(null)} />}
    </section>
  );
}
