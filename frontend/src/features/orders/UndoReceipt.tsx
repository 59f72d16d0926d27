import { useState } from "react";
import { isProblem } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { useUndoReceipt } from "./orders.queries";

/** A receipt that was none: the parts leave the shelf and are to come again; what was written stays on record. */
export function UndoReceipt({ receipt, onClose }: { receipt: number; onClose: () => void }) {
  const [reason, setReason] = useState("");
  const undo = useUndoReceipt();
  const problem = isProblem(undo.error) ? undo.error : null;
  return (
    <Sheet
      open
      onClose={onClose}
      title="Undo this receipt"
      about="The parts leave the shelf and are to come again. What was written stays on record, with the reason."
    >
      <form
        className="grid gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          undo.mutate({ id: receipt, reason }, { onSuccess: onClose });
        }}
      >
        <TextField
          label="Why"
          autoFocus
          value={reason}
          fault={problem?.at("reason")}
          onChange={(event) => setReason(event.target.value)}
        />
        {problem && !problem.at("reason") && (
          <p role="alert" className="font-semibold text-short">
            {problem.faults[0]?.message ?? problem.detail}
          </p>
        )}
        <div className="flex gap-3">
          <Button type="submit" look="main" disabled={undo.isPending}>
            Undo
          </Button>
          <Button onClick={onClose}>Leave it as it is</Button>
        </div>
      </form>
    </Sheet>
  );
}
