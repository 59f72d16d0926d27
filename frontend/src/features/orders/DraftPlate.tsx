import { useState } from "react";
import { useNavigate } from "react-router";
import { isProblem, type Problem, type Schemas } from "@/api/client";
import { day, money, plural } from "@/lib/format";
import { kindColour } from "@/lib/words";
import { Button } from "@/ui/Button";
import { Failed, Waiting } from "@/ui/Notice";
import { type Draft, useChangeDraft, useDraft, useDraftAct } from "./orders.queries";

const QUESTIONS = ["again", "far"] as const;
type Question = (typeof QUESTIONS)[number];

/** An order before it is sent: its lines at today's prices, and who has to say yes. */
export function DraftPlate({ id, session }: { id: number; session: Schemas["SessionState"] }) {
  const draft = useDraft(id);
  if (draft.isError) return <Failed title="This draft cannot be shown" detail={draft.error.message} />;
  if (!draft.data) return <Waiting what="Reading the draft" />;
  const found = draft.data;
  const open = ["draft", "waits", "refused"].includes(found.state);
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">Draft {found.id}</h2>
      <p className="text-soft">
        To {found.supplier}, asked {day(found.asked_on)}
        {found.author ? ` by ${found.author}` : ""}
      </p>
      {found.note && <p>{found.note}</p>}
      <p className="mt-1 font-semibold">{stateWords(found)}</p>
      <Lines key={found.version} draft={found} mayChange={open && session.user?.role !== "reader"} />
      {open && session.user?.role !== "reader" && <Acts draft={found} isLead={session.user?.role === "lead"} />}
    </article>
  );
}

function stateWords(draft: Draft): string {
  const by = draft.decided_by ? ` by ${draft.decided_by}` : "";
  const words: Record<string, string> = {
    draft: "Not sent. It counts nowhere as on order.",
    waits: "Waits for a lead to approve it. It counts nowhere as on order.",
    refused: `Refused${by}: ${draft.decision}. Change it, or drop it.`,
    sent: `Sent as ${draft.order_number ?? "an order"}.`,
    dropped: `Dropped${by}${draft.decision ? `: ${draft.decision}` : ""}.`,
  };
  return words[draft.state] ?? draft.state;
}

interface LineText {
  part_number: string;
  quantity: string;
}

function Lines({ draft, mayChange }: { draft: Draft; mayChange: boolean }) {
  const [lines, setLines] = useState<LineText[]>(() =>
    draft.lines.map((line) => ({ part_number: line.part_number, quantity: String(line.quantity) })),
  );
  const change = useChangeDraft(draft.id);
  const problem = isProblem(change.error) ? change.error : null;
  const changed =
    lines.length !== draft.lines.length ||
    lines.some(
      (line, place) =>
        line.part_number !== draft.lines[place]?.part_number || Number(line.quantity) !== draft.lines[place]?.quantity,
    );
  const set = (place: number, next: Partial<LineText>): void =>
    setLines((before) => before.map((line, at) => (at === place ? { ...line, ...next } : line)));
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate({
          lines: lines.map((line) => ({ part_number: line.part_number.trim(), quantity: Number(line.quantity) })),
          note: draft.note,
          expected_version: draft.version,
        });
      }}
    >
      <table className="mt-3 w-full">
        <thead>
          <tr className="border-b border-ink text-[0.9rem] text-soft">
            <th scope="col" className="text-left font-normal">
              Part
            </th>
            <th scope="col" className="text-right font-normal">
              parts
            </th>
            <th scope="col" className="text-right font-normal">
              each
            </th>
            <th scope="col" className="text-right font-normal">
              cost
            </th>
            <th scope="col">
              <span className="sr-only">Take out</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line, place) => (
            <Line
              key={place}
              line={line}
              known={draft.lines.find((one) => one.part_number === line.part_number)}
              currency={draft.currency}
              fault={faultOf(problem, place)}
              mayChange={mayChange}
              onChange={(next) => set(place, next)}
              onDrop={() => setLines((before) => before.filter((_, at) => at !== place))}
            />
          ))}
        </tbody>
        <tfoot>
          <tr className="border-t border-b-4 border-double border-ink font-semibold">
            <td className="py-0.5">{plural(draft.lines.length, "line")}, as saved</td>
            <td />
            <td />
            <td className="text-right">{money(draft.total, draft.currency)}</td>
            <td />
          </tr>
        </tfoot>
      </table>
      {problem && problem.faults.length === 0 && (
        <p role="alert" className="mt-2 font-semibold text-short">
          {problem.detail}
        </p>
      )}
      {mayChange && (
        <div className="mt-2 flex gap-3">
          <Button onClick={() => setLines((before) => [...before, { part_number: "", quantity: "1" }])}>
            Add a part
          </Button>
          {changed && (
            <Button type="submit" look="main" disabled={change.isPending || lines.length === 0}>
              Save the lines
            </Button>
          )}
        </div>
      )}
    </form>
  );
}

const faultOf = (problem: Problem | null, place: number): string | undefined =>
  problem?.faults.find((fault) => fault.field.startsWith(`lines.${place}.`))?.message;

interface LineProps {
  line: LineText;
  known: Draft["lines"][number] | undefined;
  currency: string;
  fault: string | undefined;
  mayChange: boolean;
  onChange: (next: Partial<LineText>) => void;
  onDrop: () => void;
}

function Line({ line, known, currency, fault, mayChange, onChange, onDrop }: LineProps) {
  const same = known !== undefined && known.quantity === Number(line.quantity);
  return (
    <tr className="border-b border-dotted border-rule align-top">
      <td className="py-1">
        <Named known={known} text={line.part_number} onText={(part_number) => onChange({ part_number })} />
        {same && <Remarks line={known} currency={currency} />}
        {fault && <span className="block font-semibold text-short">{fault}</span>}
      </td>
      <td className="py-1 text-right">
        {mayChange ? (
          <input
            type="number"
            min={1}
            aria-label={`Parts of ${line.part_number || "the new line"}`}
            className="w-[8ch] border border-soft bg-leaf px-1 py-0.5 text-right"
            value={line.quantity}
            onChange={(event) => onChange({ quantity: event.target.value })}
          />
        ) : (
          line.quantity
        )}
      </td>
      <td className="py-1 text-right">{same ? money(known.price, currency) : ""}</td>
      <td className="py-1 text-right">{same ? money(known.cost, currency) : ""}</td>
      <td className="py-1 text-right">
        {mayChange && (
          <button
            type="button"
            className="min-h-[24px] px-1 text-accent underline"
            aria-label={`Take ${line.part_number || "the new line"} out`}
            onClick={onDrop}
          >
            out
          </button>
        )}
      </td>
    </tr>
  );
}

interface NamedProps {
  known: Draft["lines"][number] | undefined;
  text: string;
  onText: (text: string) => void;
}

/** The part of a line: by name once it is saved, a number to type before. */
function Named({ known, text, onText }: NamedProps) {
  if (!known) {
    return (
      <input
        aria-label="Part number"
        className="code w-full border border-soft bg-leaf px-2 py-0.5"
        value={text}
        onChange={(event) => onText(event.target.value)}
      />
    );
  }
  return (
    <>
      <span className="mr-1.5 inline-block size-[9px] rounded-[2px]" style={{ background: kindColour(known.kind) }} />
      {known.part_name}
      <span className="code block text-soft">{known.part_number}</span>
    </>
  );
}

/** What speaks for another quantity. */
function Remarks({ line, currency }: { line: Draft["lines"][number]; currency: string }) {
  return (
    <>
      {line.cheaper && (
        <span className="block text-[0.9rem] text-fine">
          {line.cheaper.quantity} cost {money(line.cheaper.cost, currency)}, less than {line.quantity} do.
        </span>
      )}
      {line.far && <span className="block text-[0.9rem] font-semibold text-thin">{line.far}</span>}
    </>
  );
}

interface ButtonsProps {
  draft: Draft;
  isLead: boolean;
  busy: boolean;
  onAct: (name: Schemas["DraftActIn"]["act"]) => void;
}

function Buttons({ draft, isLead, busy, onAct }: ButtonsProps) {
  const above = draft.limit !== null && draft.total > draft.limit;
  return (
    <div className="flex flex-wrap items-center gap-3">
      {draft.state === "waits" && isLead && (
        <>
          <Button look="main" disabled={busy || draft.refusal !== null} onClick={() => onAct("approve")}>
            Approve and send
          </Button>
          <Button disabled={busy} onClick={() => onAct("refuse")}>
            Refuse
          </Button>
        </>
      )}
      {draft.state !== "waits" && (
        <Button look="main" disabled={busy || draft.lines.length === 0} onClick={() => onAct("send")}>
          {!isLead || (above && draft.is_own) ? "Ask for approval" : "Send"}
        </Button>
      )}
      {(isLead || draft.is_own) && (
        <Button look="quiet" disabled={busy} onClick={() => onAct("drop")}>
          Drop it
        </Button>
      )}
    </div>
  );
}

function Acts({ draft, isLead }: { draft: Draft; isLead: boolean }) {
  const [words, setWords] = useState("");
  const [confirmed, setConfirmed] = useState<Question[]>([]);
  const navigate = useNavigate();
  const act = useDraftAct(draft.id);
  const problem = isProblem(act.error) ? act.error : null;
  const asked = QUESTIONS.find((question) => question === problem?.question);
  const run = (name: Schemas["DraftActIn"]["act"], yes: Question[] = confirmed): void => {
    setConfirmed(yes);
    act.mutate(
      { act: name, expected_version: draft.version, words, confirmed: yes },
      {
        onSuccess: ({ order_number }) => {
          if (order_number) void navigate(`/stores/orders/${encodeURIComponent(order_number)}`);
        },
      },
    );
  };
  return (
    <section className="mt-5 border-t border-rule pt-3" aria-label="Send it">
      <Buttons draft={draft} isLead={isLead} busy={act.isPending} onAct={run} />
      {draft.state === "waits" && isLead && (
        <>
          {draft.refusal && <p className="mt-2 text-soft">You cannot approve it: {draft.refusal}.</p>}
          <label className="mt-2 flex items-baseline gap-2">
            <span className="whitespace-nowrap text-soft">Why, where it is refused</span>
            <input
              className="w-full border-b border-soft bg-transparent px-1"
              value={words}
              onChange={(event) => setWords(event.target.value)}
            />
          </label>
        </>
      )}
      {problem && (
        <p role="alert" className="mt-2 font-semibold text-short">
          {problem.faults[0]?.message ?? problem.detail}
        </p>
      )}
      {asked && (
        <Button className="mt-2" onClick={() => run("send", [...confirmed, asked])}>
          {asked === "again" ? "Yes, order as many once more" : "Yes, as many as that"}
        </Button>
      )}
    </section>
  );
}
