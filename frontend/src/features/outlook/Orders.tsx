import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { day } from "@/lib/format";
import { CancelSheet, ReceiveSheet } from "@/shared/LineSheets";
import { Button } from "@/ui/Button";
import { BasisSheet } from "./BasisSheet";
import type { OpenLine, Plate } from "./outlook.queries";

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
            <Link
              className="code inline-block min-h-[24px] text-accent underline"
              to={`/stores/orders/${encodeURIComponent(line.order_number)}`}
            >
              {line.order_number}
            </Link>
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
