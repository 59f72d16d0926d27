import { useState } from "react";
import { useNavigate, useOutletContext, useParams } from "react-router";
import type { Schemas } from "@/api/client";
import { day, figure, money, plural, shortDay } from "@/lib/format";
import { useWalk } from "@/lib/useWalk";
import { SettingsSheet } from "@/shared/SettingsSheet";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing, Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { DraftPlate } from "./DraftPlate";
import { OrderPlate } from "./OrderPlate";
import { type OrderList, type OrderSummary, useMakeDraft, useOrders, useStoresSettings } from "./orders.queries";
import { sentence } from "./sentence";

type Session = Schemas["SessionState"];

const HEAD = "border-b border-ink pb-0.5 text-left text-[0.9rem] font-normal text-soft";

function Head({ list }: { list: OrderList }) {
  const said = sentence(list);
  return (
    <header className="px-4 pt-4">
      <h1 className="text-[1.75rem]">Orders</h1>
      <p className="mt-1 max-w-[60ch] font-serif text-[1.2rem] leading-snug">
        <strong>{said.lead}</strong>; {said.rest}.
      </p>
    </header>
  );
}

interface TableProps {
  orders: OrderSummary[];
  caption: string;
  currency: string;
  chosen: string | undefined;
  onOpen: (number: string) => void;
}

function OrderTable({ orders, caption, currency, chosen, onOpen }: TableProps) {
  if (orders.length === 0) return null;
  const ended = orders.every((order) => order.to_come === 0);
  return (
    <table className="mt-4 w-full table-fixed">
      <caption className="pb-1 text-left font-semibold">{caption}</caption>
      <thead>
        <tr>
          <th scope="col" className={`${HEAD} w-[102px]`}>
            Order
          </th>
          <th scope="col" className={HEAD}>
            Supplier
          </th>
          <th scope="col" className={`${HEAD} w-[64px] text-right!`}>
            {ended ? "parts" : "to come"}
          </th>
          <th scope="col" className={`${HEAD} w-[100px] pl-3`}>
            {ended ? "placed" : "next"}
          </th>
          <th scope="col" className={HEAD}>
            stands
          </th>
          <th scope="col" className={`${HEAD} w-[72px] text-right!`}>
            total
          </th>
        </tr>
      </thead>
      <tbody>
        {orders.map((order) => (
          <tr
            key={order.number}
            className={`border-b border-dotted border-rule ${chosen === order.number ? "bg-pick" : ""}`}
          >
            <td>
              <button
                type="button"
                className="code min-h-[26px] text-left hover:underline"
                onClick={() => onOpen(order.number)}
              >
                {order.number}
              </button>
            </td>
            <td>{order.supplier}</td>
            <td className="text-right">
              {ended ? figure(order.parts) : `${figure(order.to_come)} of ${figure(order.parts)}`}
            </td>
            <td className={`pl-3 ${order.late > 0 ? "font-semibold text-short" : ""}`}>
              {order.next_on ? `${order.late > 0 ? "late, " : ""}${shortDay(order.next_on)}` : day(order.placed_on)}
            </td>
            <td>
              {order.standing}
              {order.to_settle > 0 && <strong className="text-thin">, {order.to_settle} to settle</strong>}
            </td>
            <td className="text-right">{money(order.total, currency)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const DRAFT_WORDS: Record<string, string> = { draft: "draft", waits: "waits for approval", refused: "refused" };

function Drafts({
  list,
  chosen,
  onOpen,
}: {
  list: OrderList;
  chosen: string | undefined;
  onOpen: (id: number) => void;
}) {
  if (list.drafts.length === 0) return null;
  return (
    <table className="mt-4 w-full">
      <caption className="pb-1 text-left font-semibold">Not sent yet</caption>
      <tbody>
        {list.drafts.map((draft) => (
          <tr
            key={draft.id}
            className={`border-b border-dotted border-rule first:border-t first:border-t-ink ${chosen === String(draft.id) ? "bg-pick" : ""}`}
          >
            <td>
              <button type="button" className="min-h-[26px] text-left hover:underline" onClick={() => onOpen(draft.id)}>
                Draft {draft.id}, {draft.supplier}
              </button>
            </td>
            <td className="text-soft">
              {plural(draft.lines, "line")}, {shortDay(draft.asked_on)}
              {draft.author ? ` by ${draft.author}` : ""}
            </td>
            <td className={draft.state === "waits" ? "font-semibold text-thin" : ""}>
              {DRAFT_WORDS[draft.state] ?? draft.state}
            </td>
            <td className="text-right">{money(draft.total, list.currency)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What is ordered and what is about to be: the list on the left, one order or draft on the right. */
export default function OrdersPage() {
  const session = useOutletContext<Session>();
  const { order, draft } = useParams();
  const navigate = useNavigate();
  const list = useOrders();
  const open = (number: string): void => void navigate(`/stores/orders/${encodeURIComponent(number)}`);
  const numbers = list.data?.orders.map((one) => one.number) ?? [];
  useWalk(numbers, order ?? null, open);
  if (list.isError) {
    return <FailedToRead title="Orders cannot be shown" query={list} />;
  }
  if (!list.data) return <Waiting what="Reading the orders" />;
  const found = list.data;
  return (
    <Spread
      name="orders"
      share={54}
      leftLabel="Orders"
      turned={order ?? draft}
      rightLabel="Chosen order"
      left={
        <div>
          <Head list={found} />
          <div className="px-4 pb-4">
            <Drafts list={found} chosen={draft} onOpen={(id) => void navigate(`/stores/drafts/${id}`)} />
            <OrderTable
              caption="On their way"
              orders={found.orders.filter((one) => one.to_come > 0)}
              currency={found.currency}
              chosen={order}
              onOpen={open}
            />
            <OrderTable
              caption="Ended"
              orders={found.orders.filter((one) => one.to_come === 0)}
              currency={found.currency}
              chosen={order}
              onOpen={open}
            />
            {found.orders.length === 0 && (
              <Nothing>
                Nothing was ordered yet. What should be ordered stands in the Outlook, under To do today.
              </Nothing>
            )}
          </div>
        </div>
      }
      right={<Chosen order={order} draft={draft} session={session} list={found} />}
    />
  );
}

interface ChosenProps {
  order: string | undefined;
  draft: string | undefined;
  session: Session;
  list: OrderList;
}

function Chosen({ order, draft, session, list }: ChosenProps) {
  const [rules, setRules] = useState(false);
  if (order) return <OrderPlate key={order} number={order} session={session} asOf={list.as_of} />;
  if (draft && /^\d+$/.test(draft)) return <DraftPlate key={draft} id={Number(draft)} session={session} />;
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">Draft an order</h2>
      <p className="text-soft">
        Choose an order to see its lines, what the supplier answered and what arrived. The Outlook drafts what is due
        today in one go; a single part is drafted here.
      </p>
      {session.user?.role === "reader" ? <p className="mt-3">Readers do not order.</p> : <NewDraft />}
      {session.user?.role === "lead" && (
        <Button look="quiet" className="mt-3 px-0!" onClick={() => setRules(true)}>
          Rules of the stores
        </Button>
      )}
      {rules && <Rules onClose={() => setRules(false)} />}
      {list.limit !== null && (
        <p className="mt-4 text-soft">
          An order above {money(list.limit, list.currency)} is sent once somebody else than who asked for it approves
          it.
        </p>
      )}
    </article>
  );
}

function Rules({ onClose }: { onClose: () => void }) {
  return (
    <SettingsSheet
      title="Rules of the stores"
      about="They hold from today on. Amounts in the company's currency."
      found={useStoresSettings()}
      onClose={onClose}
    />
  );
}

function NewDraft() {
  const navigate = useNavigate();
  const make = useMakeDraft();
  return (
    <form
      className="mt-3 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        const given = new FormData(event.currentTarget);
        make.mutate(
          {
            lines: [{ part_number: String(given.get("part")).trim(), quantity: Number(given.get("quantity")) }],
            note: "",
          },
          { onSuccess: ({ ids }) => void navigate(`/stores/drafts/${ids[0]}`) },
        );
      }}
    >
      <label className="grid">
        <span className="text-[0.93em] font-semibold">Part number</span>
        <input name="part" className="code w-[14ch] border border-soft bg-leaf px-2 py-1" required />
      </label>
      <label className="grid">
        <span className="text-[0.93em] font-semibold">Parts</span>
        <input
          name="quantity"
          type="number"
          min={1}
          className="w-[8ch] border border-soft bg-leaf px-2 py-1"
          required
        />
      </label>
      <Button type="submit" disabled={make.isPending}>
        Put in a draft
      </Button>
      {make.error && (
        <p role="alert" className="w-full font-semibold text-short">
          {make.error.message}
        </p>
      )}
    </form>
  );
}
