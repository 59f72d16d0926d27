import { useState } from "react";
import { plural } from "@/lib/format";
import { AskSheet, PartsField, ValueField } from "@/shared/AskSheet";
import { type Transfer, useTransferAct } from "./stores.queries";

interface TransferSheetProps {
  transfer: Transfer;
  onClose: () => void;
}

/** What arrived of a transfer; what did not is settled here and now. */
export function ArriveSheet({ transfer, onClose }: TransferSheetProps) {
  const [quantity, setQuantity] = useState(String(transfer.quantity));
  const [reason, setReason] = useState("");
  const act = useTransferAct();
  const sent = { id: transfer.id, act: "arrive" as const, quantity: Number(quantity), reason };
  return (
    <AskSheet
      title={`Arrived at ${transfer.to_site}`}
      about={`${plural(transfer.quantity, "part")} of ${transfer.part_name} ${transfer.quantity === 1 ? "was" : "were"} packed. What did not arrive is settled here and now.`}
      label="Put on the shelf"
      sending={act}
      onSend={() => act.mutate({ ...sent, expected_version: transfer.version }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <>
          <PartsField
            label="Parts that arrived"
            min={0}
            autoFocus
            value={quantity}
            fault={problem?.at("quantity")}
            onValue={setQuantity}
          />
          <ValueField
            label="What is known of the rest"
            value={reason}
            fault={problem?.at("reason")}
            onValue={setReason}
          />
        </>
      )}
    </AskSheet>
  );
}

/** A packed transfer goes back on the shelf it came from. */
export function UnpackSheet({ transfer, onClose }: TransferSheetProps) {
  const [reason, setReason] = useState("");
  const act = useTransferAct();
  const sent = { id: transfer.id, act: "unpack" as const, quantity: 0, reason };
  return (
    <AskSheet
      title="Unpack"
      about={`${transfer.quantity} ${transfer.part_name} go back on the shelf at ${transfer.from_site}.`}
      label="Unpack"
      sending={act}
      onSend={() => act.mutate({ ...sent, expected_version: transfer.version }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <ValueField label="Why" autoFocus value={reason} fault={problem?.at("reason")} onValue={setReason} />
      )}
    </AskSheet>
  );
}
