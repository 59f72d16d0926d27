import { Link, useNavigate } from "react-router";
import { money, plural, shortDay } from "@/lib/format";
import { useSite } from "@/lib/useSite";
import { kindColour } from "@/lib/words";
import { Button } from "@/ui/Button";
import { type Outlook, type PartLine, useDraftOrders } from "./outlook.queries";
import { SinceAll } from "./Since";

export interface DueProps {
  outlook: Outlook;
  currency: string;
  onChoose: (number: string) => void;
  mayOrder: boolean;
  /** The company's word for what brings parts to a site, by its code. */
  carriers: Record<string, string>;
}

type OrderLine = PartLine | Outlook["other_orders"][number];

const cost = (lines: OrderLine[]): number => lines.reduce((sum, line) => sum + line.cost, 0);

function Named({ line, onChoose }: { line: PartLine; onChoose: DueProps["onChoose"] }) {
  return (
    <span className="flex items-baseline">
      <span className="mr-1.5 size-[9px] shrink-0 rounded-[2px]" style={{ background: kindColour(line.kind) }} />
      <button type="button" className="text-left hover:underline" onClick={() => onChoose(line.number)}>
        {line.name}
      </button>
    </span>
  );
}

/** Orders of today, by supplier, with their totals. */
function OrderTable({ outlook, currency, onChoose }: DueProps) {
  const lines: OrderLine[] = [...outlook.lines.filter((line) => line.quantity > 0), ...outlook.other_orders];
  if (lines.length === 0) return null;
  const suppliers = [...new Set(lines.map((line) => line.supplier))].sort();
  return (
    <table className="mt-4 w-full">
      <thead>
        <tr className="border-b border-ink text-soft">
          <th scope="col" className="py-0.5 text-left">
            Orders
          </th>
          <th scope="col" className="text-right font-normal">
            parts
          </th>
          <th scope="col" className="text-right font-normal">
            cost
          </th>
        </tr>
      </thead>
      {suppliers.map((supplier) => (
        <tbody key={supplier}>
          <tr>
            <th colSpan={3} scope="rowgroup" className="border-b border-rule pt-2 text-left font-semibold">
              {supplier}
            </th>
          </tr>
          {lines
            .filter((line) => line.supplier === supplier)
            .map((line) => (
              <tr key={line.number} className="border-b border-dotted border-rule">
                <td className="py-0.5">
                  {"rate" in line ? (
                    <Named line={line} onChoose={onChoose} />
                  ) : (
                    <span className="ml-[15px]">{line.name}</span>
                  )}
                  {line.drafted > 0 && (
                    <Link className="ml-4 text-[0.9rem] text-accent underline" to="/stores/orders">
                      {line.drafted} in a draft already
                    </Link>
                  )}
                </td>
                <td className="pl-2 text-right">{line.quantity}</td>
                <td className="w-[84px] pl-2 text-right">{money(line.cost, currency)}</td>
              </tr>
            ))}
        </tbody>
      ))}
      <tfoot>
        <tr className="border-t border-b-4 border-double border-ink font-semibold">
          <td className="py-0.5">{plural(lines.length, "part")}</td>
          <td className="text-right">{lines.reduce((sum, line) => sum + line.quantity, 0)}</td>
          <td className="text-right">{money(cost(lines), currency)}</td>
        </tr>
      </tfoot>
    </table>
  );
}

/** All orders of today in drafts, one a supplier, to look at before they are sent. */
function DraftAll({ lines }: { lines: OrderLine[] }) {
  const navigate = useNavigate();
  const draft = useDraftOrders();
  if (lines.length === 0) return null;
  return (
    <p className="mt-2">
      <Button
        disabled={draft.isPending}
        onClick={() =>
          draft.mutate(
            { lines: lines.map((line) => ({ part_number: line.number, quantity: line.quantity })), note: "" },
            { onSuccess: ({ ids }) => void navigate(`/stores/drafts/${ids[0]}`) },
          )
        }
      >
        {`Draft ${plural(lines.length, "part")}, an order a supplier`}
      </Button>
      {draft.error && (
        <span role="alert" className="ml-2 font-semibold text-short">
          {draft.error.message}
        </span>
      )}
    </p>
  );
}

/** What leaves with the next boats, by site. */
function LoadTable({ outlook, carriers, onChoose }: DueProps) {
  const loads = outlook.lines.flatMap((line) =>
    line.sites.filter((site) => site.load > 0).map((site) => ({ line, site })),
  );
  if (loads.length === 0) return null;
  const sites = [...new Map(loads.map(({ site }) => [site.code, site.name])).entries()];
  return (
    <table className="mt-5 w-full">
      <thead>
        <tr className="border-b border-ink text-soft">
          <th scope="col" className="py-0.5 text-left">
            Loading
          </th>
          <th scope="col" className="text-right font-normal">
            parts
          </th>
          <th scope="col" className="text-right font-normal">
            there
          </th>
        </tr>
      </thead>
      {sites.map(([code, name]) => (
        <tbody key={code}>
          <tr>
            <th colSpan={3} scope="rowgroup" className="border-b border-rule pt-2 text-left font-semibold">
              next {carriers[code] ?? "boat"} to {name}
              {outlook.leaves[code] && (
                <span className="font-normal text-soft">, {shortDay(outlook.leaves[code])}</span>
              )}
            </th>
          </tr>
          {loads
            .filter(({ site }) => site.code === code)
            .map(({ line, site }) => (
              <tr key={line.number} className="border-b border-dotted border-rule">
                <td className="py-0.5">
                  <Named line={line} onChoose={onChoose} />
                </td>
                <td className="pl-2 text-right">{site.load}</td>
                <td className="w-[84px] pl-2 text-right text-soft">
                  {Math.max(site.free, 0)} of {site.level}
                </td>
              </tr>
            ))}
        </tbody>
      ))}
      <tfoot>
        <tr className="border-t border-b-4 border-double border-ink font-semibold">
          <td className="py-0.5">to pack</td>
          <td className="text-right">{loads.reduce((sum, { site }) => sum + site.load, 0)}</td>
          <td />
        </tr>
      </tfoot>
    </table>
  );
}

/** What the right page holds until a part is chosen: the orders of today by supplier, and what to load. */
export function Due(props: DueProps) {
  const { outlook, onChoose } = props;
  const [site] = useSite();
  const ended = outlook.lines.filter((line) => line.due_after_supply !== null);
  const silent = outlook.lines.filter((line) => line.todo === null);
  const query = site ? `?site=${encodeURIComponent(site)}` : "";
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">To do today</h2>
      <p className="text-soft">Choose a part, here or with the arrow keys, to see its rule and the working.</p>
      {outlook.to_order + outlook.to_load === 0 && silent.length < outlook.lines.length && (
        <p className="mt-4">
          {silent.length > 0 ? "Of what can be forecast, nothing" : "Nothing"} has to be ordered or loaded before the
          next review, in {outlook.review_days.value} days.
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
      <OrderTable {...props} />
      {site === null && props.mayOrder && (
        <DraftAll
          lines={[...outlook.lines, ...outlook.other_orders].filter((line) => line.quantity > 0 && line.drafted === 0)}
        />
      )}
      <LoadTable {...props} />
      {outlook.to_load > 0 && (
        <p className="mt-2">
          <a className="text-accent underline" href={`/api/v1/outlook/loading-list.csv${query}`} download>
            Loading list as CSV
          </a>
        </p>
      )}
      <SinceAll />
    </article>
  );
}
