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

const WHOLE_LIFE = 100;

/** A reading of one part: what a pack could still hold on a day and what it was made for, or how much of its life a drive has left. */
export function ReadingSheet({ kind, asOf, onClose }: { kind: string; asOf: string; onClose: () => void }) {
  const drive = kind === "ssd";
  const { register, handleSubmit } = useForm<ReadingForm>({
    defaultValues: { position: drive ? "drive" : "battery", read_on: asOf, ...(drive && { design: WHOLE_LIFE }) },
  });
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
          label={drive ? "Life left, %" : "Full capacity, Wh"}
          type="number"
          step="any"
          fault={problem?.at("full")}
          {...register("full", { valueAsNumber: true })}
        />
        {!drive && (
          <TextField
            label="Design capacity, Wh"
            type="number"
            step="any"
            fault={problem?.at("design")}
            {...register("design", { valueAsNumber: true })}
          />
        )}
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
