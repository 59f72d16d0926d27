import { useState } from "react";
import { isProblem, type Problem } from "@/api/client";
import { Button } from "@/ui/Button";
import { SelectField, TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { type Order, useAnswers, useSimulatedAnswer } from "./orders.queries";

const REPLIES = {
  confirmed: "confirms it",
  moved: "names another day",
  short: "can send fewer",
  substitute: "would send another part",
  price: "asks another price",
} as const;
type Reply = keyof typeof REPLIES;
const NAMES = Object.keys(REPLIES) as Reply[];

interface Said {
  part: string;
  reply: Reply;
  expected_on: string;
  quantity: string;
  price: string;
  substitute: string;
  words: string;
}

/** What the supplier said of a line: typed in, as its file, or from the simulated one. */
export function AnswerSheet({ order, onClose }: { order: Order; onClose: () => void }) {
  const open = order.lines.filter((line) => line.to_come > 0);
  const [said, setSaid] = useState<Said>({
    part: open[0]?.part_number ?? "",
    reply: "confirmed",
    expected_on: open[0]?.expected_on ?? "",
    quantity: "",
    price: "",
    substitute: "",
    words: "",
  });
  const answers = useAnswers(order.number);
  const simulated = useSimulatedAnswer(order.number);
  const error = answers.error ?? simulated.error;
  const problem = isProblem(error) ? error : null;
  const change = (next: Partial<Said>): void => setSaid((before) => ({ ...before, ...next }));
  return (
    <Sheet
      open
      onClose={onClose}
      title={`${order.supplier} answered`}
      about={`Of ${order.number}. A day takes effect at once; fewer parts, another part or another price wait for a lead.`}
    >
      <form
        className="grid gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          answers.mutate({ answers: [sent(said)] }, { onSuccess: onClose });
        }}
      >
        <SelectField label="Of" value={said.part} onChange={(event) => change({ part: event.target.value })}>
          {open.map((line) => (
            <option key={line.id} value={line.part_number}>
              {line.part_name}, {line.to_come} to come
            </option>
          ))}
        </SelectField>
        <SelectField
          label="It"
          value={said.reply}
          fault={at(problem, "reply")}
          onChange={(event) => change({ reply: event.target.value as Reply })}
        >
          {NAMES.map((name) => (
            <option key={name} value={name}>
              {REPLIES[name]}
            </option>
          ))}
        </SelectField>
        <Details said={said} problem={problem} onChange={change} />
        {problem && !problem.faults.some((fault) => fault.field.startsWith("answers.")) && (
          <p role="alert" className="font-semibold text-short">
            {problem.faults[0]?.message ?? problem.detail}
          </p>
        )}
        <div className="flex flex-wrap gap-3">
          <Button type="submit" look="main" disabled={answers.isPending || open.length === 0}>
            Put on record
          </Button>
          <label className="cursor-pointer self-center text-accent underline">
            Or read its file
            <input
              type="file"
              accept=".json,application/json"
              className="sr-only"
              onChange={(event) => {
                const file = event.target.files?.[0];
                if (file) void file.text().then((text) => answers.mutate({ file: text }, { onSuccess: onClose }));
              }}
            />
          </label>
        </div>
        <p className="border-t border-rule pt-2 text-[0.93rem] text-soft">
          Simulated supplier, to try it:{" "}
          {NAMES.map((name) => (
            <button
              key={name}
              type="button"
              className="mr-2 min-h-[24px] text-accent underline"
              disabled={simulated.isPending}
              onClick={() => simulated.mutate(name, { onSuccess: onClose })}
            >
              {REPLIES[name]}
            </button>
          ))}
        </p>
      </form>
    </Sheet>
  );
}

/** A fault of the one answer that is typed in. */
const at = (problem: Problem | null, field: string): string | undefined => problem?.at(`answers.0.${field}`);

interface DetailsProps {
  said: Said;
  problem: Problem | null;
  onChange: (next: Partial<Said>) => void;
}

/** What each kind of answer has to say. */
function Details({ said, problem, onChange }: DetailsProps) {
  return (
    <>
      {said.reply === "short" && (
        <TextField
          label="How many they can send"
          type="number"
          min={0}
          value={said.quantity}
          fault={at(problem, "quantity")}
          onChange={(event) => onChange({ quantity: event.target.value })}
        />
      )}
      {said.reply === "substitute" && (
        <TextField
          label="Part they would send"
          className="code"
          value={said.substitute}
          fault={at(problem, "part_number")}
          onChange={(event) => onChange({ substitute: event.target.value })}
        />
      )}
      {(said.reply === "price" || said.reply === "substitute") && (
        <TextField
          label="Price of one"
          type="number"
          min={0}
          step="0.01"
          value={said.price}
          fault={at(problem, "price")}
          onChange={(event) => onChange({ price: event.target.value })}
        />
      )}
      <TextField
        label="Expected on"
        type="date"
        value={said.expected_on}
        hint={said.reply === "moved" ? undefined : "Empty leaves the day as it is."}
        fault={at(problem, "expected_on")}
        onChange={(event) => onChange({ expected_on: event.target.value })}
      />
      <TextField
        label="In their words"
        value={said.words}
        onChange={(event) => onChange({ words: event.target.value })}
      />
    </>
  );
}

const number = (text: string): number | null => (text.trim() ? Number(text) : null);

function sent(said: Said) {
  return {
    part_number: said.part,
    reply: said.reply,
    expected_on: said.expected_on || null,
    quantity: said.reply === "short" ? number(said.quantity) : null,
    unit_price: said.reply === "price" || said.reply === "substitute" ? number(said.price) : null,
    substitute: said.reply === "substitute" ? said.substitute || null : null,
    words: said.words,
  };
}
