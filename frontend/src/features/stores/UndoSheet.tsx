import { useState } from "react";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { useUndo } from "./stores.queries";

/** Undoing an act: counter-moves with a reason; what was done stays on record. */
export function UndoSheet({ act, onClose }: { act: number; onClose: () => void }) {
  const [reason, setReason] = useState("");
  const undo = useUndo();
  return (
    <AskSheet
      title="Undo"
      about="Counter-moves are booked today; what was done stays on record with the reason."
      label="Undo"
      sending={undo}
      onSend={() => undo.mutate({ id: act, reason }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <ValueField label="Why" autoFocus value={reason} fault={problem?.at("reason")} onValue={setReason} />
      )}
    </AskSheet>
  );
}
