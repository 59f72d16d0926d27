import { useState } from "react";
import { isProblem } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { type Order, useMail } from "./orders.queries";

/** An order goes to its supplier by mail; how it went is said, and is on record with who sent it. */
export function MailSheet({ order, onClose }: { order: Order; onClose: () => void }) {
  const [to, setTo] = useState(order.mail_to);
  const [from, setFrom] = useState(order.mail_from);
  const mail = useMail(order.number);
  const problem = isProblem(mail.error) ? mail.error : null;
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Mail order ${order.number}`}
      about={`To ${order.supplier}, with the order as PDF and as JSON. What goes out stays on record.`}
    >
      {mail.data ? (
        <p role="status">Done: {mail.data.way}.</p>
      ) : (
        <form
          className="grid gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            mail.mutate({ address: to, sender: from });
          }}
        >
          <TextField
            label="To, the supplier's address"
            type="email"
            required
            value={to}
            fault={problem?.at("address") ?? undefined}
            onChange={(event) => setTo(event.target.value)}
          />
          <TextField
            label="From, the company's address"
            type="email"
            required
            value={from}
            fault={problem?.at("sender") ?? undefined}
            onChange={(event) => setFrom(event.target.value)}
          />
          {problem && !problem.at("address") && !problem.at("sender") && (
            <p role="alert" className="text-short">
              {problem.at("order") ?? problem.detail}
            </p>
          )}
          <div className="flex gap-3">
            <Button type="submit" look="main" disabled={mail.isPending}>
              {mail.isPending ? "Sending" : "Send it"}
            </Button>
            <Button onClick={onClose}>Leave it</Button>
          </div>
        </form>
      )}
    </Sheet>
  );
}
