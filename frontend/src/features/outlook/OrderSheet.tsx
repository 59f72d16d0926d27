import { useState } from "react";
import { useForm } from "react-hook-form";
import { isProblem } from "@/api/client";
import { addDays, day } from "@/lib/format";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { type Plate, useOrder } from "./outlook.queries";

interface OrderForm {
  quantity: number;
  expected_on: string;
}

const QUESTIONS = ["again", "far"] as const;
type Question = (typeof QUESTIONS)[number];
const YES: Record<Question, string> = {
  again: "Yes, order as many once more",
  far: "Yes, as many as that",
};

export function OrderSheet({ plate, onClose }: { plate: Plate; onClose: () => void }) {
  const expected = addDays(plate.as_of, plate.lead_days);
  const { register, handleSubmit } = useForm<OrderForm>({
    defaultValues: { quantity: plate.line.quantity || plate.minimum_order, expected_on: expected },
  });
  const order = useOrder();
  const [values, setValues] = useState<OrderForm | null>(null);
  const [confirmed, setConfirmed] = useState<Question[]>([]);
  const problem = isProblem(order.error) ? order.error : null;
  const asked = QUESTIONS.find((question) => question === problem?.question);
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Order ${plate.line.name}`}
      about={`Writes down that the order went to ${plate.supplier}. It counts as on order from today, ${day(plate.as_of)}.`}
    >
      <form
        className="grid gap-4"
        onSubmit={handleSubmit((entered) => {
          setValues(entered);
          setConfirmed([]);
          order.mutate({ part_number: plate.line.number, ...entered, confirmed: [] }, { onSuccess: onClose });
        })}
      >
        <TextField
          label="Quantity"
          type="number"
          min={1}
          autoFocus
          fault={problem?.at("quantity")}
          hint={`Packs of ${plate.pack}, at least ${plate.minimum_order}.`}
          {...register("quantity", { valueAsNumber: true })}
        />
        <TextField
          label="Expected on"
          type="date"
          fault={problem?.at("expected_on")}
          hint={`The supplier's median lead time is ${plate.lead_days} days.`}
          {...register("expected_on")}
        />
        {problem && !problem.at("quantity") && !problem.at("expected_on") && (
          <p role="alert" className="font-semibold text-short">
            {problem.detail}
          </p>
        )}
        {asked && values && (
          <Button
            className="justify-self-start"
            onClick={() => {
              const all = [...confirmed, asked];
              setConfirmed(all);
              order.mutate({ part_number: plate.line.number, ...values, confirmed: all }, { onSuccess: onClose });
            }}
          >
            {YES[asked]}
          </Button>
        )}
        <div className="flex gap-3">
          <Button type="submit" look="main" disabled={order.isPending}>
            Mark as ordered
          </Button>
          <Button onClick={onClose}>Cancel</Button>
        </div>
      </form>
    </Sheet>
  );
}
