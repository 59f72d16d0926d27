import { day, figure, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { type Group, type Look, type Settled, WRITTEN } from "./lists.queries";

export interface DifferenceProps {
  look: Look;
  done: boolean;
  sending: boolean;
  looking: boolean;
  /** As it was ticked, before the list was looked at again. */
  delivered: boolean;
  fault: string | null;
  onApply: () => void;
  onSettle: (change: Partial<Settled>) => void;
}

const GROUPS: Record<string, { title: string; one: string; many: string; look: string }> = {
  new: { title: "New", one: "is new", many: "are new", look: "text-covered" },
  moved: { title: "Moved", one: "has moved", many: "have moved", look: "" },
  changed: { title: "Changed", one: "is changed", many: "are changed", look: "" },
  gone: { title: "Gone", one: "is gone", many: "are gone", look: "text-thin" },
  unchanged: { title: "Unchanged", one: "is as on record", many: "are as on record", look: "text-soft" },
  twice: { title: "Said twice", one: "is said twice", many: "are said twice", look: "text-soft" },
  unusable: { title: "Cannot be used", one: "cannot be used", many: "cannot be used", look: "text-short" },
  waits: { title: "Waits for an answer", one: "waits for an answer", many: "wait for an answer", look: "text-thin" },
};

/** What a list says beside the record, group by group, and the one button that writes it. */
export function Difference({ look, done, sending, looking, delivered, fault, onApply, onSettle }: DifferenceProps) {
  const written = look.groups.filter((group) => WRITTEN.some((one) => one === group.group));
  const count = written.reduce((sum, group) => sum + group.count, 0);
  return (
    <section className="p-4" aria-label="What it changes">
      <h2 className="text-[1.5rem]">What it changes</h2>
      <p className="mt-1 font-serif text-[1.15rem] leading-snug" aria-live="polite">
        {done && count === 0 ? <strong>Applied. </strong> : null}
        {look.groups.length === 0 ? "It holds no row that can be used." : `${look.groups.map(words).join("; ")}.`}
      </p>
      {look.open_gone > 0 && <GoneChoice look={look} onSettle={onSettle} />}
      {look.gone && look.groups.some((group) => group.group === "gone") && (
        <p className="mt-1 text-soft">
          Machines it does not name any more are retired{" "}
          {look.gone === "spread" && look.before
            ? `between ${day(look.before)} and ${day(look.list_on)}`
            : `on ${day(look.list_on)}`}
          .{" "}
          <button type="button" className="text-accent underline" onClick={() => onSettle({ gone: "leave" })}>
            leave them on record
          </button>
        </p>
      )}
      {look.gone === "leave" && look.kind === "machines" && (
        <p className="mt-1 text-soft">
          Machines it does not name stay on record.{" "}
          <button type="button" className="text-accent underline" onClick={() => onSettle({ gone: "on" })}>
            retire them
          </button>
        </p>
      )}
      {look.kind === "machines" && look.rows > 0 && <Delivered delivered={delivered} onSettle={onSettle} />}
      <p className="mt-3 flex items-center gap-3">
        <Button look="main" disabled={count === 0 || look.open > 0 || sending || looking} onClick={onApply}>
          {sending ? "Applying" : `Apply ${plural(count, "change")}`}
        </Button>
        {look.open > 0 && <span className="text-thin">{plural(look.open, "question is", "questions are")} open.</span>}
      </p>
      {fault && (
        <p role="alert" className="mt-1 font-semibold text-short">
          {fault}
        </p>
      )}
      {look.groups.map((group) => (
        <GroupTable key={group.group} group={group} />
      ))}
    </section>
  );
}

function Delivered({ delivered, onSettle }: Pick<DifferenceProps, "delivered" | "onSettle">) {
  return (
    <label className="mt-2 flex items-start gap-2">
      <input
        type="checkbox"
        className="mt-1"
        checked={delivered}
        onChange={(event) => onSettle({ delivered: event.target.checked })}
      />
      <span>
        Machines hold what they were delivered with
        <span className="block text-[0.93rem] text-soft">
          where one part alone fits a position nobody told of. Where the log of their site began later, nobody knows
          since when a part is in: it counts at every age it may have. What fits is told by a list of parts with a
          column “fits”, or on the model’s page.
        </span>
      </span>
    </label>
  );
}

function words(group: Group): string {
  const said = GROUPS[group.group];
  return `${figure(group.count)} ${group.count === 1 ? said?.one : said?.many}`;
}

function GoneChoice({ look, onSettle }: { look: Look; onSettle: DifferenceProps["onSettle"] }) {
  if (look.kind === "parts") {
    return (
      <div className="mt-3 border-l-2 border-thin pl-3">
        <p>
          {plural(look.open_gone, "shelf", "shelves")} at sites of this list {look.open_gone === 1 ? "has" : "have"}{" "}
          stock by the record, and {look.open_gone === 1 ? "is" : "are"} not on it. What does that mean? It is asked
          once.
        </p>
        <p className="mt-1 flex flex-wrap gap-3">
          <Button onClick={() => onSettle({ gone: "on" })}>None is there: count 0</Button>
          <Button onClick={() => onSettle({ gone: "leave" })}>The list is not of all: leave them</Button>
        </p>
      </div>
    );
  }
  return (
    <div className="mt-3 border-l-2 border-thin pl-3">
      <p>
        {plural(look.open_gone, "machine stands", "machines stand")} on record at sites of this list and{" "}
        {look.open_gone === 1 ? "is" : "are"} not on it. What became of such machines? It is asked once.
      </p>
      <p className="mt-1 flex flex-wrap gap-3">
        <Button onClick={() => onSettle({ gone: "on" })}>Retired on {day(look.list_on)}</Button>
        {look.before && (
          <Button onClick={() => onSettle({ gone: "spread" })}>Retired some day since {day(look.before)}</Button>
        )}
        <Button onClick={() => onSettle({ gone: "leave" })}>Still there: the list is not of all</Button>
      </p>
    </div>
  );
}

function GroupTable({ group }: { group: Group }) {
  const said = GROUPS[group.group];
  const open = WRITTEN.some((one) => one === group.group) || group.group === "unusable";
  return (
    <details className="mt-3" open={open && group.count <= 40}>
      <summary className={`border-b border-ink pb-0.5 font-semibold ${said?.look}`}>
        {said?.title} <span className="font-normal text-soft">{figure(group.count)}</span>
      </summary>
      <table className="w-full table-fixed">
        <colgroup>
          <col className="w-36" />
          <col />
          <col className="w-14" />
        </colgroup>
        <thead className="sr-only">
          <tr>
            <th scope="col">Of what</th>
            <th scope="col">What</th>
            <th scope="col">Line</th>
          </tr>
        </thead>
        <tbody>
          {group.changes.map((one) => (
            <tr
              key={`${one.subject} ${one.line} ${one.words}`}
              className="border-b border-dotted border-rule align-top"
            >
              <th scope="row" className="code w-36 py-0.5 pr-3 font-normal break-words">
                {one.subject || "–"}
              </th>
              <td className="py-0.5 pr-3">
                {[one.model, one.group === "new" ? one.site : null].filter(Boolean).join(", ")}
                {one.model ? "; " : ""}
                {one.words}
              </td>
              <td className="w-14 py-0.5 text-right text-soft">{one.line ?? ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {group.count > group.changes.length && (
        <p className="text-soft">The first {figure(group.changes.length)} are shown.</p>
      )}
    </details>
  );
}
