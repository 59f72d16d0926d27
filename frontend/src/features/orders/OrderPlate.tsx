import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { day, dayFrom, money, plural, shortDay } from "@/lib/format";
import { kindColour } from "@/lib/words";
import { CancelSheet, type ComingLine, ReceiveSheet } from "@/shared/LineSheets";
import { Button } from "@/ui/Button";
import { Failed, Waiting } from "@/ui/Notice";
import { AnswerSheet } from "./AnswerSheet";
import { MailSheet } from "./MailSheet";
import { type Order, type OrderLine, useOrderPage } from "./orders.queries";
import { ToSettle } from "./ToSettle";
import { UndoReceipt } from "./UndoReceipt";

export interface OrderPlateProps {
  number: string;
  session: Schemas["SessionState"];
  asOf: string;
}

type Sheet =
  | { name: "receive"; line: OrderLine }
  | { name: "cancel"; line: OrderLine }
  | { name: "answer" }
  | { name: "mail" }
  | { name: "undo"; receipt: number };

const FILES = [
  ["pdf", "PDF"],
  ["csv", "CSV"],
  ["json", "JSON"],
  ["eml", "mail"],
] as const;

const coming = (order: Order, line: OrderLine): ComingLine => ({
  id: line.id,
  order_number: order.number,
  quantity: line.quantity,
  remaining: line.to_come,
  version: line.version,
});

/** One order as a document: its lines, what waits to be settled, and what happened. */
export function OrderPlate({ number, session, asOf }: OrderPlateProps) {
  const [asked, setAsked] = useSearchParams();
  const [opened, setSheet] = useState<Sheet | null>(null);
  const order = useOrderPage(number);
  if (order.isError) return <Failed title="This order cannot be shown" detail={order.error.message} />;
  if (!order.data) return <Waiting what="Reading the order" />;
  const found = order.data;
  const role = session.user?.role;
  const may = role !== "reader";
  const scanned = found.lines.find((line) => String(line.id) === asked.get("receive") && line.to_come > 0);
  const sheet = opened ?? (may && scanned ? { name: "receive" as const, line: scanned } : null);
  const close = (): void => {
    setSheet(null);
    if (scanned) setAsked({}, { replace: true });
  };
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">
        Order <span className="code">{found.number}</span>
      </h2>
      <p className="text-soft">
        {found.supplier} to {found.site}, placed {day(found.placed_on)}
        {found.author ? ` by ${found.author}` : ""}
        {found.approved_by ? `, approved by ${found.approved_by}` : ""}
      </p>
      <p className="mt-1">
        <strong>{found.standing}</strong>
        {found.note ? ` · ${found.note}` : ""}
      </p>
      <p className="text-soft">{leadWords(found)}</p>
      <div className="mt-2 flex flex-wrap items-baseline gap-x-3">
        {may && (
          <Button look="quiet" className="px-0!" onClick={() => setSheet({ name: "answer" })}>
            The supplier answered
          </Button>
        )}
        {may && found.lines.some((line) => line.to_come > 0) && (
          <Button look="quiet" className="px-0!" onClick={() => setSheet({ name: "mail" })}>
            Send by mail
          </Button>
        )}
        <span className="ml-auto text-soft">
          As{" "}
          {FILES.map(([kind, words]) => (
            <a
              key={kind}
              className="mr-2 inline-block min-h-[24px] text-accent underline"
              href={`/api/v1/orders/${encodeURIComponent(found.number)}/document.${kind}`}
              download
            >
              {words}
            </a>
          ))}
          {found.history.some((item) => item.receipt_id !== null) && (
            <a
              className="inline-block min-h-[24px] text-accent underline"
              href={`/api/v1/stores/lots/${encodeURIComponent(found.number)}.pdf`}
              target="_blank"
              rel="noreferrer"
            >
              Lot labels
            </a>
          )}
        </span>
      </div>
      <ToSettle order={found} mayDecide={role === "lead"} />
      <Lines
        order={found}
        may={may}
        mayCancel={role === "lead"}
        onReceive={(line) => setSheet({ name: "receive", line })}
        onCancel={(line) => setSheet({ name: "cancel", line })}
      />
      <History order={found} asOf={asOf} may={may} onUndo={(receipt) => setSheet({ name: "undo", receipt })} />
      {sheet && <Opened sheet={sheet} order={found} asOf={asOf} onClose={close} />}
    </article>
  );
}

/** The sheet that lies over the order. */
function Opened({ sheet, order, asOf, onClose }: { sheet: Sheet; order: Order; asOf: string; onClose: () => void }) {
  if (sheet.name === "receive") {
    return <ReceiveSheet line={coming(order, sheet.line)} asOf={asOf} expires={sheet.line.expires} onClose={onClose} />;
  }
  if (sheet.name === "cancel") return <CancelSheet line={coming(order, sheet.line)} onClose={onClose} />;
  if (sheet.name === "answer") return <AnswerSheet order={order} onClose={onClose} />;
  if (sheet.name === "mail") return <MailSheet order={order} onClose={onClose} />;
  return <UndoReceipt receipt={sheet.receipt} onClose={onClose} />;
}

/** How long the supplier takes: as it states, and as its deliveries say. */
function leadWords(order: Order): string {
  const stated = `${order.supplier} states ${order.stated_days} days, nine in ten within ${order.stated_late_days}`;
  if (order.deliveries === 0) return `${stated}; no delivery is on record yet.`;
  return `${stated}; after ${plural(order.deliveries, "delivery", "deliveries")} on record it is ${order.lead_days}, nine in ten within ${order.late_days}.`;
}

interface LinesProps {
  order: Order;
  may: boolean;
  mayCancel: boolean;
  onReceive: (line: OrderLine) => void;
  onCancel: (line: OrderLine) => void;
}

const HEAD = "border-b border-ink pb-0.5 text-left text-[0.9rem] font-normal text-soft";

function Lines({ order, may, mayCancel, onReceive, onCancel }: LinesProps) {
  return (
    <table className="mt-3 w-full">
      <thead>
        <tr>
          <th scope="col" className={HEAD}>
            Part
          </th>
          <th scope="col" className={`${HEAD} text-right!`}>
            parts
          </th>
          <th scope="col" className={`${HEAD} pl-3`}>
            expected
          </th>
          <th scope="col" className={`${HEAD} text-right!`}>
            cost
          </th>
        </tr>
      </thead>
      <tbody>
        {order.lines.map((line) => (
          <Line
            key={line.id}
            line={line}
            order={order}
            may={may}
            mayCancel={mayCancel}
            onReceive={onReceive}
            onCancel={onCancel}
          />
        ))}
      </tbody>
      <tfoot>
        <tr className="border-t border-b-4 border-double border-ink font-semibold">
          <td className="py-0.5">{plural(order.lines.length, "line")}</td>
          <td />
          <td />
          <td className="text-right">{money(order.total, order.currency)}</td>
        </tr>
      </tfoot>
    </table>
  );
}

interface LineProps extends LinesProps {
  line: OrderLine;
}

function Line(props: LineProps) {
  const { line, order } = props;
  return (
    <tr className="border-b border-dotted border-rule align-top">
      <td className="py-1">
        <span className="mr-1.5 inline-block size-[9px] rounded-[2px]" style={{ background: kindColour(line.kind) }} />
        <Link
          className="inline-block min-h-[24px] hover:underline"
          to={`/stores/${encodeURIComponent(line.part_number)}/${encodeURIComponent(order.site_code)}`}
        >
          {line.part_name}
        </Link>
        <span className="code block text-soft">{line.part_number}</span>
        {line.energy_class && (
          <span className="block text-[0.9rem] text-soft">
            {line.energy_class}; carrier and dangerous-goods rules decide
          </span>
        )}
        {line.to_come > 0 && <LineActs {...props} />}
      </td>
      <td className="py-1 text-right">
        {line.quantity}
        <span className="block text-[0.9rem] text-soft">{partsWords(line)}</span>
      </td>
      <td className="py-1 pl-3">
        <span className={line.late ? "font-semibold text-short" : ""}>
          {line.to_come > 0 ? `${line.late ? "late, " : ""}${shortDay(line.expected_on)}` : "all settled"}
        </span>
        <span className="block text-[0.9rem] text-soft">
          {line.confirmed_on ? `confirmed ${shortDay(line.confirmed_on)}` : line.to_come > 0 ? "not confirmed" : ""}
        </span>
      </td>
      <td className="py-1 text-right">
        {money(line.cost, order.currency)}
        <span className="block text-[0.9rem] text-soft">{money(line.price, order.currency)} each</span>
      </td>
    </tr>
  );
}

function LineActs({ line, may, mayCancel, onReceive, onCancel }: LineProps) {
  return (
    <span className="block">
      {may && (
        <Button
          look="quiet"
          className="px-0! py-0!"
          aria-label={`Receive ${line.part_name}`}
          onClick={() => onReceive(line)}
        >
          Receive
        </Button>
      )}
      {mayCancel && (
        <Button
          look="quiet"
          className="ml-3 px-0! py-0!"
          aria-label={`Cancel ${line.part_name}`}
          onClick={() => onCancel(line)}
        >
          Cancel
        </Button>
      )}
    </span>
  );
}

function partsWords(line: OrderLine): string {
  const words = [
    line.arrived > 0 ? `${line.arrived} arrived` : "",
    line.cancelled > 0 ? `${line.cancelled} cancelled` : "",
    line.to_come > 0 && line.to_come < line.quantity ? `${line.to_come} to come` : "",
  ];
  return words.filter(Boolean).join(", ");
}

interface HistoryProps {
  order: Order;
  asOf: string;
  may: boolean;
  onUndo: (receipt: number) => void;
}

function History({ order, asOf, may, onUndo }: HistoryProps) {
  if (order.history.length === 0) {
    const heard =
      order.to_settle.length > 0 ? "Nothing arrived yet." : "Nothing was heard of it, and nothing arrived yet.";
    return <p className="mt-4 text-soft">{heard}</p>;
  }
  return (
    <table className="mt-5 w-full">
      <caption className="border-b border-ink pb-0.5 text-left font-semibold">What happened, the latest first</caption>
      <tbody>
        {order.history.map((item) => (
          <tr key={`${item.on}${item.words}`} className="border-b border-dotted border-rule align-top">
            <td className="py-0.5 pr-3 whitespace-nowrap">{dayFrom(item.on, asOf)}</td>
            <td className="py-0.5">
              {item.words} <span className="text-soft">{item.who ?? ""}</span>
            </td>
            <td className="text-right">
              {may && item.receipt_id !== null && (
                <button
                  type="button"
                  className="min-h-[24px] text-accent underline"
                  aria-label={`Undo: ${item.words}`}
                  onClick={() => onUndo(item.receipt_id ?? 0)}
                >
                  undo
                </button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
