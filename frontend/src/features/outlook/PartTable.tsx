import { TideStrip } from "@/charts/TideStrip";
import { figure, money, monthLetter, percent, perHundred, shortDay } from "@/lib/format";
import { KIND_NAMES, kindColour } from "@/lib/words";
import type { Outlook, PartLine } from "./outlook.queries";

export interface PartTableProps {
  outlook: Outlook;
  lines: PartLine[];
  chosen: string | undefined;
  onChoose: (number: string) => void;
  currency: string;
}

const STATE_COLOURS: Record<string, string> = { short: "text-short", thin: "text-thin", covered: "text-covered" };

const HEAD = "sticky top-0 z-10 border-b border-ink bg-paper pt-1 pb-1 align-bottom text-[0.9rem] leading-tight";

function MonthHead({ outlook }: { outlook: Outlook }) {
  const last = outlook.months.at(-1)?.to_day ?? 1;
  return (
    <span className="relative block h-[1.1em] w-[236px]" aria-hidden="true">
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
  if (line.state === null) return `${line.name}: ${line.on_hand} on hand; what is wanted of it cannot be said yet`;
  const order = line.order_by
    ? `order by ${shortDay(line.order_by)}`
    : line.due_after_supply
      ? "no order can be placed when it would be due"
      : "no order due within a year";
  return `Projected stock of ${line.name}: now ${line.on_hand}, in a year ${end?.median ?? 0} without orders, between ${end?.low ?? 0} and ${end?.high ?? 0}; ${order}`;
};

function OrderBy({ line, asOf }: { line: PartLine; asOf: string }) {
  if (line.state === null) return <span className="text-soft">cannot say</span>;
  const ended = line.due_after_supply !== null;
  const when =
    line.order_by === null ? (ended ? "supply ends" : "–") : line.order_by <= asOf ? "today" : shortDay(line.order_by);
  return (
    <>
      <span className={`block font-semibold ${STATE_COLOURS[line.state]}`}>{when}</span>
      <span className={`block text-[0.88rem] font-semibold ${STATE_COLOURS[line.state]}`}>
        {line.state}
        {line.late && ", late"}
      </span>
    </>
  );
}

function Row({ line, props }: { line: PartLine; props: PartTableProps }) {
  const { outlook, chosen, onChoose, currency } = props;
  const picked = chosen === line.number;
  const short = line.sites_short.map((site) => site.code);
  return (
    <tr
      data-part={line.number}
      aria-selected={picked}
      onClick={() => onChoose(line.number)}
      className={`cursor-pointer border-b border-dotted border-rule hover:bg-pick ${picked ? "bg-pick" : ""}`}
    >
      <td className={`max-w-[200px] py-1 pr-2 pl-4 ${picked ? "shadow-[inset_5px_0_0_var(--accent)]" : ""}`}>
        <button type="button" className="block w-full truncate text-left font-semibold" title={line.name}>
          {line.name}
        </button>
        <span className="code text-soft">{line.number}</span>
        {short.length > 0 && (
          <span
            className="ml-2 text-[0.88rem] font-semibold text-thin"
            title={line.sites_short
              .map((site) => `${site.name}: ${site.on_hand} on hand, ${percent(site.chance)} to run out`)
              .join("\n")}
          >
            short at {short.length > 2 ? `${short.length} sites` : short.join(", ")}
          </span>
        )}
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
      <td className="py-1 pr-3 text-right">
        {line.on_hand}
        {line.expired > 0 && <span className="block text-[0.88rem] text-thin">{line.expired} expired</span>}
      </td>
      <td className="py-1 pr-3 text-right">
        {line.on_order || "–"}
        {line.overdue > 0 && <span className="block text-[0.88rem] text-thin">overdue</span>}
      </td>
      <td className="py-1 pr-3">
        {line.path.length > 0 ? (
          <TideStrip
            path={line.path}
            arrivals={line.arrivals}
            floor={line.floor}
            orderDay={line.order_day}
            monthEnds={outlook.months.map((month) => month.to_day)}
            colour={kindColour(line.kind)}
            title={describe(line)}
          />
        ) : (
          <span className="sr-only">{describe(line)}</span>
        )}
      </td>
      <td className="py-1 pr-3 text-right">
        <OrderBy line={line} asOf={outlook.as_of} />
      </td>
      <td className="py-1 pr-3 text-right">
        {line.quantity > 0 ? (
          <>
            <span className="block">{line.quantity}</span>
            <span className="block text-[0.88rem] text-soft">{money(line.cost, currency)}</span>
          </>
        ) : (
          <span title={line.order_by ? "at median demand nothing is needed that day: look again then" : undefined}>
            –
          </span>
        )}
      </td>
    </tr>
  );
}

/** The index of stock parts, by kind. */
export function PartTable(props: PartTableProps) {
  const kinds = [...new Set(props.lines.map((line) => line.kind))];
  return (
    <table className="mt-2 w-full border-collapse">
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
            On
            <br />
            hand
          </th>
          <th scope="col" className={`${HEAD} pr-3 text-right`}>
            On
            <br />
            order
          </th>
          <th scope="col" className={HEAD}>
            <span className="sr-only">Projected stock by month</span>
            <MonthHead outlook={props.outlook} />
          </th>
          <th scope="col" className={`${HEAD} pr-3 text-right`}>
            Order by
          </th>
          <th scope="col" className={`${HEAD} pr-3 text-right`}>
            Order
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
