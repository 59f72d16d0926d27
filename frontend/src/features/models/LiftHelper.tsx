import { useState } from "react";
import { Button } from "@/ui/Button";
import { useLook } from "./models.queries";

/** "It will not lift": one look after another, never more force. */
export function LiftHelper({ model, operation }: { model: number; operation: string }) {
  const [open, setOpen] = useState(false);
  if (!open) {
    return (
      <button type="button" className="no-print ml-9 text-[0.9rem] text-accent underline" onClick={() => setOpen(true)}>
        it will not lift
      </button>
    );
  }
  return <Looks model={model} operation={operation} onClose={() => setOpen(false)} />;
}

function Looks({ model, operation, onClose }: { model: number; operation: string; onClose: () => void }) {
  const [looked, setLooked] = useState<string[]>([]);
  const look = useLook(model, operation, looked);
  if (!look.data) return null;
  return (
    <div role="status" className="mt-1 ml-9 border-l-4 border-accent bg-leaf px-2 py-1">
      <p>
        <strong>{look.data.what}.</strong> {look.data.why}
      </p>
      <div className="mt-1 flex gap-2">
        {look.data.id !== "stop" && (
          <Button onClick={() => setLooked([...looked, look.data.id])}>Looked, still shut</Button>
        )}
        <Button look="quiet" onClick={onClose}>
          {look.data.id === "stop" ? "Close" : "It came off"}
        </Button>
      </div>
    </div>
  );
}
