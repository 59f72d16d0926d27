import { useForm } from "react-hook-form";
import { api, body, isProblem, type Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { useWriting } from "./useWriting";

const useReceive = () =>
  useWriting(async ({ line_id, ...receipt }: Schemas["ReceiptIn"] & { line_id: number }) =>
    body(await api.POST("/api/v1/order-lines/{line_id}/receipts", { params: { path: { line_id } }, body: receipt })),
  );

const useCancelLine = () =>
  useWriting(async ({ line_id, ...cancelled }: Schemas["CancelIn"] & { line_id: number }) =>
    body(
      await api.POST("/api/v1/order-lines/{line_id}/cancellations", { params: { path: { line_id } }, body: cancelled }),
    ),
  );

/** A line of an order with something to come. */
export interface ComingLine {
  id: number;
  order_number: string;
  quantity: number;
  remaining: number;
  version: number;
}

interface ReceiveProps {
  line: ComingLine;
  asOf: string;
  expires: boolean;
  onClose: () => void;
}

/** What arrived of a line: how many, when, and what the labels say. */
export function ReceiveSheet({ line, asOf, expires, onClose }: ReceiveProps) {
  const { register, handleSubmit } = useForm({
    defaultValues: { quantity: line.remaining, received_on: asOf, made_on: "", expires_on: "", lot: "", serials: "" },
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
        onSubmit={handleSubmit(({ made_on, expires_on, serials, ...values }) =>
          receive.mutate(
            {
              line_id: line.id,
              expected_version: line.version,
              ...values,
              made_on: made_on || null,
              expires_on: expires_on || null,
              serials: serials.split(/[\s,;]+/).filter(Boolean),
            },
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
          <div className="grid grid-cols-2 gap-4">
            <TextField
              label="Made on"
              type="date"
              hint="As on the label; its shelf life counts from there. Empty counts from the day it arrived."
              fault={problem?.at("made_on")}
              {...register("made_on")}
            />
            <TextField
              label="Or: use before"
              type="date"
              hint="Where the label tells the last day instead."
              fault={problem?.at("expires_on")}
              {...register("expires_on")}
            />
          </div>
        )}
        <TextField
          label="Lot"
          hint="Of the maker, where one is printed. Empty takes the order's number."
          fault={problem?.at("lot")}
          {...register("lot")}
        />
        <TextField
          label="Serials"
          hint="As scanned, separated by spaces; none has to be named."
          fault={problem?.at("serials")}
          {...register("serials")}
        />
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
export function CancelSheet({ line, onClose }: { line: ComingLine; onClose: () => void }) {
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
