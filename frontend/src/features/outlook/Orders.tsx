import { useState } from "react";
import { useForm } from "react-hook-form";
import { isProblem, type Schemas } from "@/api/client";
import { day } from "@/lib/format";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { BasisSheet } from "./BasisSheet";
import { type OpenLine, type Plate, useCancelLine, useReceive } from "./outlook.queries";

interface ReceiveProps {
  line: OpenLine;
  asOf: string;
  expires: boolean;
  onClose: () => void;
}

function ReceiveSheet({ line, asOf, expires, onClose }: ReceiveProps) {
  const { register, handleSubmit } = useForm({
    defaultValues: { quantity: line.remaining, received_on: asOf, made_on: "" },
  });
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
        onSubmit={handleSubmit(({ made_on, ...values }) =>
          receive.mutate(
            { line_id: line.id, expected_version: line.version, ...values, made_on: made_on || null },
            { onSuccess: onClose },
          ),
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
        {expires && (
          <TextField
            label="Made on"
            type="date"
            hint="As on the label; its shelf life counts from there. Empty counts from the day it arrived."
            fault={problem?.at("made_on")}
            {...register("made_on")}
          />
        )}
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

/** What will not come: the reason stays on record, the rest stays on order. */
function CancelSheet({ line, onClose }: { line: OpenLine; onClose: () => void }) {
  const { register, handleSubmit } = useForm({ defaultValues: { quantity: line.remaining, reason: "" } });
  const cancel = useCancelLine();
  const problem = isProblem(cancel.error) ? cancel.error : null;
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Cancel ${line.order_number}`}
      about={`${line.remaining} of ${line.quantity} are still to come. What is cancelled counts no more; that it was ordered stays on record.`}
    >
      <form
        className="grid gap-4"
        onSubmit={handleSubmit((values) =>
          cancel.mutate({ line_id: line.id, expected_version: line.version, ...values }, { onSuccess: onClose }),
        )}
      >
        <TextField
          label="Parts that will not come"
          type="number"
          min={1}
          autoFocus
          fault={problem?.at("quantity")}
          {...register("quantity", { valueAsNumber: true })}
        />
        <TextField label="Why" fault={problem?.at("reason")} {...register("reason")} />
        {problem && problem.faults.length === 0 && (
          <p role="alert" className="font-semibold text-short">
            {problem.detail}
          </p>
        )}
        <div className="flex gap-3">
          <Button type="submit" look="main" disabled={cancel.isPending}>
            Cancel these parts
          </Button>
          <Button onClick={onClose}>Leave it as it is</Button>
        </div>
      </form>
    </Sheet>
  );
}

/** What is on its way, receiving it, and cancelling what will not come. */
export function Orders({ plate, session }: { plate: Plate; session: Schemas["SessionState"] }) {
  const [receiving, setReceiving] = useState<OpenLine | null>(null);
  const [cancelling, setCancelling] = useState<OpenLine | null>(null);
  const [basis, setBasis] = useState<string | null>(null);
  if (plate.open_lines.length === 0) return null;
  const mayReceive = session.user?.role !== "reader";
  const mayCancel = session.user?.role === "lead";
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
            <Button look="quiet" className="ml-auto py-0!" onClick={() => setBasis(line.order_number)}>
              Why
            </Button>
            {mayReceive && (
              <Button look="quiet" className="py-0!" onClick={() => setReceiving(line)}>
                Receive
              </Button>
            )}
            {mayCancel && (
              <Button look="quiet" className="py-0!" onClick={() => setCancelling(line)}>
                Cancel
              </Button>
            )}
          </li>
        ))}
      </ul>
      {basis && <BasisSheet order={basis} onClose={() => setBasis(null)} />}
      {cancelling && <CancelSheet line={cancelling} onClose={() => setCancelling(null)} />}
      {receiving && (
        <ReceiveSheet line={receiving} asOf={plate.as_of} expires={plate.expires} onClose={() => setReceiving(null)} />
      )}
    </section>
  );
}
