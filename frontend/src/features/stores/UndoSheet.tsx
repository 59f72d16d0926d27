import { useState } from "react";
import { isProblem } from "@/api/client";
import { TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { Buttons } from "./OpenWork";
import { useUndo } from "./stores.queries";

/** Undoing an act: counter-moves with a reason; what was done stays on record. */
export function UndoSheet({ act, onClose }: { act: number; onClose: () => void }) {
  const [reason, setReason] = useState("");
  const undo = useUndo();
  const problem = isProblem(undo.error) ? undo.error : null;
  return (
    <Sheet
      open
      onClose={onClose}
      title="Undo"
      about="Counter-moves are booked today; what was done stays on record with the reason."
    >
      <form
        className="grid gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          undo.mutate({ id: act, reason }, { onSuccess: onClose });
        }}
      >
        <TextField
          label="Why"
          autoFocus
          value={reason}
          fault={problem?.at("reason")}
          onChange={(event) => setReason(event.target.value)}
        />
        <Buttons label="Undo" busy={undo.isPending} problem={problem} onClose={onClose} />
      </form>
    </Sheet>
  );
}
