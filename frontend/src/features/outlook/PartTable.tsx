import { TideStrip } from "@/charts/TideStrip";
import { figure, money, monthLetter, perHundred, shortDay } from "@/lib/format";
import { KIND_NAMES, kindColour } from "@/lib/words";
import { RISK_COLOURS, riskWords, TODO_COLOURS, todoWords } from "./asks";
import type { Outlook, PartLine } from "./outlook.queries";

export interface PartTableProps {
  outlook: Outlook;
  lines: PartLine[];
  chosen: string | undefined;
  onChoose: (number: string) => void;
  currency: string;
}

const HEAD = "sticky top-0 z-10 border-b border-ink bg-paper pt-1 pb-1 align-bottom text-[0.9rem] leading-tight";

function MonthHead({ outlook }: { outlook: Outlook }) {
  const last = outlook.months.at(-1)?.to_day ?? 1;
  return (
    <span className="relative block h-[1.1em] w-[196px]" aria-hidden="true">
      {outlook.months.map((month) => (
        <span
          key={month.first_on}
          className="absolute -translate-x-1/2"
          style={{ left: `${((month.from_day + month.to_day) / 2 / last) * 100}%` }}
        >
          {monthLetter(month.first_on)}
        </span>
      ))}
    </span>
  );
}

const describe = (line: PartLine): string => {
  const end = line.path.at(-1);
  if (line.todo === null) return `${line.name}: ${line.on_hand} on the shelf; what is wanted of it cannot be said yet`;
  const order = line.next_order.likely
    ? `next order likely ${shortDay(line.next_order.likely)}`
    : "no order likely within a year";
  return `Position of ${line.name} without new orders: now ${line.position ?? line.on_hand}, in a year ${end?.median ?? 0}, between ${end?.low ?? 0} and ${end?.high ?? 0}; order at ${line.order_at ?? "nothing"}; ${order}`;
};

function Row({ line, props }: { line: PartLine; props: PartTableProps }) {
  const { outlook, chosen, onChoose, currency } = props;
  const picked = chosen === line.number;
  return (
    <tr
      data-part={line.number}
      aria-selected={picked}
      onClick={() => onChoose(line.number)}
      className={`cursor-pointer border-b border-dotted border-rule hover:bg-pick ${picked ? "bg-pick" : ""}`}
    >
      <td className={`max-w-[190px] py-1 pr-2 pl-4 ${picked ? "shadow-[inset_5px_0_0_var(--accent)]" : ""}`}>
        <button type="button" className="block w-full truncate text-left font-semibold" title={line.name}>
          {line.name}
        </button>
        <span className="code text-soft">{line.number}</span>
      </td>
      <td className="py-1 pr-3 text-right">
        {line.rate ? (
          <>
            <span className="block">{perHundred(line.rate.rate)}</span>
            <span className="block text-[0.88rem] text-soft">
              {perHundred(line.rate.low)}–{perHundred(line.rate.high)}
            </span>
          </>
        ) : (
          "–"
        )}
      </td>
      <td className="py-1 pr-3 text-right">{figure(line.in_service)}</td>
      <td className="py-1 pr-3 text-right whitespace-nowrap">
        <span className="font-semibold">{line.on_hand}</span>
        {line.on_order > 0 && ` + ${line.on_order}`}
        {line.promised > 0 && <span className="block text-[0.88rem] text-soft">{line.promised} promised</span>}
        {line.expired > 0 && <span className="block text-[0.88rem] text-thin">{line.expired} expired</span>}
        {line.overdue > 0 && <span className="block text-[0.88rem] text-thin">{line.overdue} overdue</span>}
      </td>
      <td className="py-1 pr-3">
        {line.path.length > 0 ? (
          <TideStrip
            path={line.path}
            arrivals={line.arrivals}
            orderAt={line.order_at}
            next={line.next_days}
            due={line.quantity > 0}
            monthEnds={outlook.months.map((month) => month.to_day)}
            colour={kindColour(line.kind)}
            title={describe(line)}
          />
        ) : (
          <span className="sr-only">{describe(line)}</span>
        )}
      </td>
      <td className="py-1 pr-3 text-right">
        {line.order_at === null ? (
          "–"
        ) : (
          <>
            <span className="block font-semibold">{line.order_at}</span>
            <span className="block text-[0.88rem] text-soft">{line.most}</span>
          </>
        )}
      </td>
      <td className="py-1 pr-3">
        <Asks line={line} currency={currency} />
      </td>
      <td className="py-1 pr-3 whitespace-nowrap">
        <NextOrder line={line} asOf={outlook.as_of} />
      </td>
    </tr>
  );
}

/** What the shelf asks of somebody, over what is risked. */
function Asks({ line, currency }: { line: PartLine; currency: string }) {
  if (line.todo === null) return <span className="text-soft">cannot say</span>;
  if (line.todo === "nothing" && line.risk === "fine") return <span className={RISK_COLOURS.fine}>fine</span>;
  return (
    <>
      <span
        className={`block font-semibold ${TODO_COLOURS[line.todo]}`}
        title={line.quantity > 0 ? money(line.cost, currency) : undefined}
      >
        {todoWords(line)}
      </span>
      <span className={`block text-[0.88rem] ${RISK_COLOURS[line.risk ?? "fine"]}`}>{riskWords(line)}</span>
    </>
  );
}

function NextOrder({ line, asOf }: { line: PartLine; asOf: string }) {
  const { early, likely, late } = line.next_order;
  if (line.todo === null) return <span className="text-soft">cannot say</span>;
  if (line.due_after_supply !== null) return <span className="text-short">supply ends</span>;
  if (likely !== null && likely <= asOf) return <>now</>;
  if (early === null) return <span className="text-soft">not in a year</span>;
  return (
    <>
      <span className="block">{likely === null ? "later" : shortDay(likely)}</span>
      <span className="block text-[0.88rem] text-soft">
        {shortDay(early)}–{late === null ? "later" : shortDay(late)}
      </span>
    </>
  );
}

/** The index of stock parts, by kind. */
export function PartTable(props: PartTableProps) {
  const kinds = [...new Set(props.lines.map((line) => line.kind))];
  return (
    <table className="mt-2 w-full border-collapse max-[700px]:px-3">
      <thead>
        <tr className="text-soft">
          <th scope="col" className={`${HEAD} pl-4`}>
            Part
          </th>
          <th scope="col" className={`${HEAD} pr-3 text-right`}>
            Per 100
            <br />a year
          </th>
          <th scope="col" className={`${HEAD} pr-3 text-right`}>
            In
            <br />
            service
          </th>
          <th scope="col" className={`${HEAD} pr-3 text-right`}>
            On the shelf
            <br />+ coming
          </th>
          <th data-name="Position without orders" scope="col" className={`${HEAD} text-left`}>
            Position without orders
            <MonthHead outlook={props.outlook} />
          </th>
          <th scope="col" className={`${HEAD} pr-3 text-right whitespace-nowrap`}>
            Order at
            <br />
            at most
          </th>
          <th scope="col" className={`${HEAD} pr-3 text-left`}>
            To do
            <br />
            risk
          </th>
          <th scope="col" className={`${HEAD} pr-3 text-left`}>
            Likely
            <br />
            next order
          </th>
        </tr>
      </thead>
      {kinds.map((kind) => {
        const members = props.lines.filter((line) => line.kind === kind);
        const wanted = members.flatMap((line) => (line.a_month === null ? [] : [line.a_month]));
        const month = wanted.reduce((sum, each) => sum + each, 0);
        return (
          <tbody key={kind}>
            <tr>
              <th colSpan={8} scope="rowgroup" className="border-b border-rule pt-3 pb-1 pl-4">
                <span
                  className="mr-2 inline-block size-[10px] rounded-[2px]"
                  style={{ background: kindColour(kind) }}
                />
                <span className="font-serif text-[1.1rem]">{KIND_NAMES[kind]}</span>
                <span className="ml-3 font-normal text-[0.93rem] text-soft">
                  {wanted.length === 0
                    ? "what is wanted cannot be said yet"
                    : `${wanted.length < members.length ? "at least " : ""}${figure(month, 1)} wanted a month`}{" "}
                  · {members.length} stocked
                </span>
              </th>
            </tr>
            {members.map((line) => (
              <Row key={line.number} line={line} props={props} />
            ))}
          </tbody>
        );
      })}
    </table>
  );
}
