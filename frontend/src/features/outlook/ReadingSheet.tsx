import { useForm } from "react-hook-form";
import { isProblem } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { useKeepReading } from "./outlook.queries";

interface ReadingForm {
  tag: string;
  position: string;
  read_on: string;
  full: number;
  design: number;
}

const FIELDS = ["tag", "position", "read_on", "full", "design"] as const;

/** A reading of one pack: what it could still hold on a day, and what it was made for. */
export function ReadingSheet({ asOf, onClose }: { asOf: string; onClose: () => void }) {
  const { register, handleSubmit } = useForm<ReadingForm>({ defaultValues: { position: "battery", read_on: asOf } });
  const keep = useKeepReading();
  const problem = isProblem(keep.error) ? keep.error : null;
  return (
    <Sheet
      open
      onClose={onClose}
      title="Write a reading down"
      about="As the machine reports it. Three readings on different days tell a trend; a second reading of one day takes the place of the first."
    >
      <form className="grid gap-4" onSubmit={handleSubmit((values) => keep.mutate(values, { onSuccess: onClose }))}>
        <TextField label="Asset tag" autoFocus fault={problem?.at("tag")} {...register("tag")} />
        <TextField
          label="Position"
          hint="Key of the position on the model's page."
          fault={problem?.at("position")}
          {...register("position")}
        />
        <TextField label="Read on" type="date" fault={problem?.at("read_on")} {...register("read_on")} />
        <TextField
          label="Full capacity, Wh"
          type="number"
          step="any"
          fault={problem?.at("full")}
          {...register("full", { valueAsNumber: true })}
        />
        <TextField
          label="Design capacity, Wh"
          type="number"
          step="any"
          fault={problem?.at("design")}
          {...register("design", { valueAsNumber: true })}
        />
        {problem && !FIELDS.some((field) => problem.at(field)) && (
          <p role="alert" className="font-semibold text-short">
            {problem.detail}
          </p>
        )}
        <div className="flex gap-3">
          <Button type="submit" look="main" disabled={keep.isPending}>
            {keep.isPending ? "Computing" : "Keep the reading"}
          </Button>
          <Button onClick={onClose}>Cancel</Button>
        </div>
      </form>
    </Sheet>
  );
}
