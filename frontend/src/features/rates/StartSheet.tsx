import { useState } from "react";
import { useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { KIND_NAMES } from "@/lib/words";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { Button } from "@/ui/Button";
import { useStart, useStateStart } from "./rates.queries";

type Fields = Schemas["StartFields"];

/** What a kind begins from before its log tells: stated by a lead, shown on every figure it carries, overruled by the log. */
export function StartingPoint({ kind }: { kind: string }) {
  const session = useOutletContext<Schemas["SessionState"]>();
  const start = useStart(kind);
  const [open, setOpen] = useState(false);
  const lead = session.user?.role === "lead";
  if (!start.data || (!lead && !start.data.words)) return null;
  return (
    <p className="mt-2">
      {start.data.words ? (
        <>
          <strong>Begins from a belief:</strong> {start.data.words}. The log overrules it as it grows.{" "}
        </>
      ) : (
        <span className="text-soft">Nothing is stated to begin from. </span>
      )}
      {lead && (
        <button type="button" className="text-accent underline" onClick={() => setOpen(true)}>
          {start.data.words ? "change" : "state what is believed"}
        </button>
      )}
      {open && <StartSheet key={start.data.number} kind={kind} start={start.data} onClose={() => setOpen(false)} />}
    </p>
  );
}

const NAMES: Record<keyof Fields, string> = {
  per_hundred: "stated_rate",
  worth: "stated_worth",
  after_years: "stated_after",
  later_per_hundred: "stated_later",
};
const textOf = (value: number | null): string => (value === null ? "" : String(value));
const numberOf = (text: string): number | null => (text.trim() ? Number(text) : null);

interface StartSheetProps {
  kind: string;
  start: Schemas["StartView"];
  onClose: () => void;
}

function StartSheet({ kind, start, onClose }: StartSheetProps) {
  const [texts, setTexts] = useState(() => ({
    per_hundred: textOf(start.fields.per_hundred),
    worth: textOf(start.fields.worth),
    after_years: textOf(start.fields.after_years),
    later_per_hundred: textOf(start.fields.later_per_hundred),
  }));
  const state = useStateStart(kind);
  const send = (fields: Fields): void =>
    state.mutate({ fields, expected_number: start.number }, { onSuccess: onClose });
  return (
    <AskSheet
      title={`What is believed of ${KIND_NAMES[kind]?.toLowerCase()}`}
      about="A belief counts as so many failures seen, beside those of the log. Where nobody knows, leave it: figures then say how wide that is."
      label="State it"
      sending={state}
      fields={Object.values(NAMES)}
      onSend={() =>
        send({
          per_hundred: numberOf(texts.per_hundred),
          worth: numberOf(texts.worth),
          after_years: numberOf(texts.after_years),
          later_per_hundred: numberOf(texts.later_per_hundred),
        })
      }
      onClose={onClose}
    >
      {(problem) => {
        const field = (name: keyof Fields, label: string, hint?: string) => (
          <ValueField
            label={label}
            type="number"
            step="any"
            min={0}
            hint={hint}
            value={texts[name]}
            fault={problem?.at(NAMES[name]) ?? undefined}
            onValue={(value) => setTexts((before) => ({ ...before, [name]: value }))}
          />
        );
        return (
          <>
            {field("per_hundred", "Of 100, so many fail in a year")}
            {field(
              "worth",
              "As sure as if I had seen so many fail",
              "5 is a fair guess, 20 is well known, 1 is little.",
            )}
            <div className="grid grid-cols-2 gap-3">
              {field("after_years", "After so many years", "Empty: the same at every age.")}
              {field("later_per_hundred", "so many of 100 a year")}
            </div>
            {start.words && (
              <p>
                <Button
                  onClick={() => send({ per_hundred: null, worth: null, after_years: null, later_per_hundred: null })}
                >
                  I do not know: take it back
                </Button>
              </p>
            )}
          </>
        );
      }}
    </AskSheet>
  );
}
