import { useState } from "react";
import { isProblem, type Schemas } from "@/api/client";
import { day, figure, money, percent, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { TextArea, TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { type Plate, useChangeSetting } from "./outlook.queries";

export interface DecisionsProps {
  plate: Plate;
  session: Schemas["SessionState"];
}

/** What is decided about a part beside its orders: its aim, whether it is kept at all, the last buy, and what comes later. */
export function Decisions({ plate, session }: DecisionsProps) {
  const [deciding, setDeciding] = useState(false);
  if (plate.line.order_at === null) return null;
  const mayChange = session.user?.role === "lead";
  return (
    <section className="mt-4" aria-label="Decisions">
      <h3 className="flex items-baseline justify-between border-b border-rule pb-0.5 font-sans text-[1rem]">
        What is decided
        {mayChange && (
          <button type="button" className="font-normal text-accent underline" onClick={() => setDeciding(true)}>
            change
          </button>
        )}
      </h3>
      <p className="mt-1">{aimWords(plate)}</p>
      {plate.when_needed.holds !== "" && <WhenNeeded plate={plate} session={session} />}
      <Later plate={plate} />
      <Stocking plate={plate} currency={session.currency} />
      {plate.last_buy && <LastBuy buy={plate.last_buy} currency={session.currency} asOf={plate.as_of} />}
      {deciding && <DecideSheet plate={plate} session={session} onClose={() => setDeciding(false)} />}
    </section>
  );
}

const hundred = (share: number): string => `${Number((share * 100).toFixed(2))} of 100`;

function aimWords({ target }: Plate): string {
  const aim = `Aim: ${hundred(Number(target.holds))} requests met at once`;
  if (target.own === null) return `${aim}, as for its kind or the company.`;
  return `${aim}, this part's own${target.reason ? `: ${target.reason}` : ""}.`;
}

function WhenNeeded({ plate, session }: DecisionsProps) {
  const said = String(plate.when_needed.holds);
  const names = said.split(",").map((code) => session.sites.find((site) => site.code === code)?.name ?? code);
  const waits = plate.stocking
    ? ` About ${figure(plate.stocking.waits, 1)} requests a year wait ${figure(plate.stocking.days)} days each.`
    : "";
  return (
    <p className="mt-1 text-thin">
      {said === "all" ? "Bought when needed: none is kept anywhere." : `Bought when needed at ${names.join(", ")}.`}{" "}
      Why: {plate.when_needed.reason}.{said === "all" ? waits : " The aim holds for the other places."}
    </p>
  );
}

/** What will be kept as the fleet ages and shrinks. */
function Later({ plate }: { plate: Plate }) {
  const { order_at, most } = plate.line;
  const others = plate.later.filter((one) => one.order_at !== order_at || one.most !== most);
  if (plate.later.length === 0) return null;
  if (others.length === 0) return <p className="mt-1">The same is kept in 3, 6 and 12 months.</p>;
  return (
    <p className="mt-1">
      {plate.later.map((one) => `In ${one.months} months order at ${one.order_at}, at most ${one.most}`).join(" · ")}.
    </p>
  );
}

/** Whether keeping one costs less than waiting for each. */
function Stocking({ plate, currency }: { plate: Plate; currency: string }) {
  const found = plate.stocking;
  if (!found) {
    return (
      <p className="mt-1 text-soft">
        Whether it is worth keeping cannot be said: nobody has said what a machine costs that waits a day (Stores,
        settings).
      </p>
    );
  }
  const [without, one] = [found.without, found.with_one].map((value) => money(Math.round(value), currency));
  return (
    <p className="mt-1">
      Keeping none costs about {without} a year ({figure(found.waits, 1)} requests, each waiting {figure(found.days)}{" "}
      days); keeping one {one}. {found.worth_it ? "It is worth keeping." : "Bought when needed it would cost less."}
    </p>
  );
}

function LastBuy({ buy, currency, asOf }: { buy: NonNullable<Plate["last_buy"]>; currency: string; asOf: string }) {
  if (buy.quantity === null || buy.until === null) return <p className="mt-1 text-thin">Last buy: {buy.why}.</p>;
  const least = buy.unknown > 0 ? "at least " : "";
  const bought =
    buy.quantity === 0 && !least
      ? "no more is needed"
      : `${least}${plural(buy.quantity, "more part")} for ${money(buy.cost ?? 0, currency)}`;
  return (
    <p className="mt-1">
      <strong>Last buy: {bought}.</strong> Until {buy.until <= asOf ? "today" : day(buy.until)}, when the last machine
      that holds it retires, {figure(buy.expected ?? 0, 1)} are expected and {buy.enough} suffice with{" "}
      {percent(buy.chance)}; {buy.there} are there or coming.
      {buy.unknown > 0 &&
        ` ${figure(buy.unknown)} in machines without a day of retirement are counted until that of the last.`}
    </p>
  );
}

interface Draft {
  aim: string;
  places: string[];
  reason: string;
}

/** A lead decides: an aim of its own, and where it is bought when needed. */
function DecideSheet({ plate, session, onClose }: DecisionsProps & { onClose: () => void }) {
  const own = plate.target.own === null ? "" : String(Number((Number(plate.target.own) * 100).toFixed(2)));
  const places = String(plate.when_needed.own ?? "")
    .split(",")
    .filter(Boolean);
  const [draft, setDraft] = useState<Draft>({ aim: own, places, reason: plate.when_needed.reason });
  const change = useChangeSetting();
  const problem = isProblem(change.error) ? change.error : null;
  const scope = { scope: "part" as const, scope_key: plate.line.number };
  const wanted = [
    draft.aim !== own && {
      ...scope,
      key: "target",
      value: draft.aim.trim() === "" ? null : Number(draft.aim.replace(",", ".")) / 100,
      expected_number: plate.target.number,
      reason: draft.reason,
    },
    (draft.places.join() !== places.join() || (places.length > 0 && draft.reason !== plate.when_needed.reason)) && {
      ...scope,
      key: "when_needed",
      value: draft.places.length === 0 ? null : draft.places.join(),
      expected_number: plate.when_needed.number,
      reason: draft.reason,
    },
  ].filter((one) => one !== false);
  const send = async (): Promise<void> => {
    for (const one of wanted) await change.mutateAsync(one);
    onClose();
  };
  const outposts = session.sites.filter((site) => !site.is_depot);
  const toggle = (code: string): void => {
    const rest = code === "all" ? [] : draft.places.filter((place) => place !== "all");
    const next = draft.places.includes(code) ? rest.filter((place) => place !== code) : [...rest, code];
    setDraft({ ...draft, places: next });
  };
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Decide about ${plate.line.number}`}
      about="Holds from today on; what held before stays in the record."
    >
      <form
        className="grid gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          void send().catch(() => undefined);
        }}
      >
        <TextField
          label="Aim of this part, requests met at once of 100"
          inputMode="decimal"
          value={draft.aim}
          hint={`Empty: as for its kind or the company. Now ${hundred(Number(plate.target.holds))}.`}
          fault={problem?.at("value") ?? undefined}
          onChange={(event) => setDraft({ ...draft, aim: event.target.value })}
        />
        <fieldset>
          <legend className="font-semibold">Bought when needed</legend>
          <p className="text-[0.93rem] text-soft">None is kept there; who asks for one waits until it comes.</p>
          {[{ code: "all", name: "Everywhere" }, ...outposts].map((site) => (
            <label key={site.code} className="mr-4 inline-flex min-h-[28px] items-center gap-2">
              <input type="checkbox" checked={draft.places.includes(site.code)} onChange={() => toggle(site.code)} />
              {site.name}
            </label>
          ))}
        </fieldset>
        <TextArea
          label="Why"
          value={draft.reason}
          fault={problem?.at("reason") ?? undefined}
          onChange={(event) => setDraft({ ...draft, reason: event.target.value })}
        />
        {problem && !problem.at("value") && !problem.at("reason") && (
          <p role="alert" className="text-short">
            {problem.detail}
          </p>
        )}
        <div className="flex gap-3">
          <Button type="submit" look="main" disabled={wanted.length === 0 || change.isPending}>
            Decide
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Sheet>
  );
}
