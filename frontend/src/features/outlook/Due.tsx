import { money, plural, shortDay } from "@/lib/format";
import { kindColour } from "@/lib/words";
import type { Outlook, PartLine } from "./outlook.queries";
import { SinceAll } from "./Since";

export interface DueProps {
  outlook: Outlook;
  currency: string;
  onChoose: (number: string) => void;
}

const cost = (lines: PartLine[]): number => lines.reduce((sum, line) => sum + line.cost, 0);

function DueTable({ title, lines, outlook, currency, onChoose }: DueProps & { title: string; lines: PartLine[] }) {
  if (lines.length === 0) return null;
  return (
    <table className="mt-4 w-full">
      <caption className="border-b border-ink pb-0.5 text-left font-semibold">{title}</caption>
      <tbody>
        {lines.map((line) => (
          <tr key={line.number} className="border-b border-dotted border-rule">
            <td className="flex items-baseline py-0.5">
              <span
                className="mr-1.5 size-[9px] shrink-0 rounded-[2px]"
                style={{ background: kindColour(line.kind) }}
              />
              <button type="button" className="text-left hover:underline" onClick={() => onChoose(line.number)}>
                {line.name}
              </button>
            </td>
            <td className="pl-2 text-right whitespace-nowrap text-soft">
              {line.order_by && line.order_by > outlook.as_of
                ? `by ${shortDay(line.order_by)}`
                : line.late
                  ? "late"
                  : ""}
            </td>
            <td className="pl-2 text-right">{line.quantity}</td>
            <td className="w-[74px] pl-2 text-right">{money(line.cost, currency)}</td>
          </tr>
        ))}
        <tr className="border-t border-b-4 border-double border-ink font-semibold">
          <td className="py-0.5">{plural(lines.length, "part")}</td>
          <td />
          <td />
          <td className="text-right">{money(cost(lines), currency)}</td>
        </tr>
      </tbody>
    </table>
  );
}

/** What the right page holds until a part is chosen: the orders, in the order of their days. */
export function Due(props: DueProps) {
  const { outlook, onChoose } = props;
  const due = outlook.lines
    .filter((line) => line.quantity > 0 && line.order_by !== null)
    .sort((a, b) => (a.order_by ?? "").localeCompare(b.order_by ?? "") || a.number.localeCompare(b.number));
  const today = due.filter((line) => line.state === "short");
  const thin = due.filter((line) => line.state === "thin");
  const ended = outlook.lines.filter((line) => line.due_after_supply !== null);
  const silent = outlook.lines.filter((line) => line.state === null);
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">Orders due</h2>
      <p className="text-soft">Choose a part, here or with the arrow keys, to see its plan and the working.</p>
      {today.length + thin.length === 0 && silent.length < outlook.lines.length && (
        <p className="mt-4">
          {silent.length > 0 ? "Of what can be forecast, nothing" : "Nothing"} has to be ordered before the next review,
          in {outlook.review_days.value} days.
        </p>
      )}
      {silent.length > 0 && (
        <p className="mt-4 text-thin">Whether {plural(silent.length, "part")} should be ordered cannot be said yet.</p>
      )}
      {ended.length > 0 && (
        <section className="mt-4">
          <h3 className="border-b border-ink pb-0.5 font-sans text-[1rem]">Due when it can no longer be bought</h3>
          <ul>
            {ended.map((line) => (
              <li key={line.number} className="flex border-b border-dotted border-rule py-0.5">
                <button type="button" className="text-left hover:underline" onClick={() => onChoose(line.number)}>
                  {line.name}
                </button>
                <span className="ml-auto pl-2 text-soft">
                  {line.end_of_supply_on && `sold until ${shortDay(line.end_of_supply_on)}`}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <DueTable {...props} title="Today" lines={today} />
      <DueTable {...props} title={`Before the next review, in ${outlook.review_days.value} days`} lines={thin} />
      <SinceAll />
    </article>
  );
}
