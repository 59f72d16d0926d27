import { figure, perHundred } from "@/lib/format";
import { GRADE_NAMES, HELD_NAMES, kindColour } from "@/lib/words";
import type { ModelPageData, PositionDetail, Rates } from "./models.queries";
import { useRates } from "./models.queries";

export interface PositionTableProps {
  page: ModelPageData;
  chosen: string | null;
  onChoose: (key: string) => void;
}

const doubted = (entry: PositionDetail): boolean =>
  entry.held_doubt !== "" ||
  entry.facts.some(
    (fact) => fact.statements.length > 1 || ["told", "assumed"].includes(fact.statements[0]?.grade ?? ""),
  );

/** Every position: what it takes, how it is held, what is ordered, minutes to reach, and what the fleet says of its part. */
export function PositionTable({ page, chosen, onChoose }: PositionTableProps) {
  const rates = useRates(page.model_id);
  return (
    <table className="mt-4 w-full text-[0.95rem]">
      <caption className="sr-only">Positions of {page.name}</caption>
      <thead>
        <tr className="border-b border-ink [&>th]:px-1 [&>th]:py-1 [&>th]:align-bottom">
          <th scope="col">Position</th>
          <th scope="col">Takes</th>
          <th scope="col">Held</th>
          <th scope="col">Ordered as</th>
          <th scope="col" className="text-right">
            Minutes
          </th>
          <th scope="col" className="text-right">
            In the fleet
          </th>
          <th scope="col" className="text-right">
            Failures a year, of 100
          </th>
          <th scope="col" className="text-right">
            On hand
          </th>
          <th scope="col">Known by</th>
        </tr>
      </thead>
      <tbody>
        {page.positions.map((entry) => (
          <Row key={entry.key} entry={entry} rates={rates} chosen={entry.key === chosen} onChoose={onChoose} />
        ))}
      </tbody>
    </table>
  );
}

interface RowProps {
  entry: PositionDetail;
  rates: Rates | null;
  chosen: boolean;
  onChoose: (key: string) => void;
}

function Row({ entry, rates, chosen, onChoose }: RowProps) {
  return (
    <tr
      className={`border-b border-dotted border-rule [&>td]:px-1 [&>td]:py-1 [&>td]:align-baseline [&>th]:px-1 [&>th]:align-baseline ${
        chosen ? "bg-pick" : "hover:bg-pick/60"
      }`}
    >
      <th scope="row" className={chosen ? "border-l-4 border-accent" : "border-l-4 border-transparent"}>
        <button
          type="button"
          className="flex items-baseline gap-2 py-0.5 text-left font-semibold"
          aria-pressed={chosen}
          onClick={() => onChoose(entry.key)}
        >
          <span aria-hidden="true" className="size-2 shrink-0" style={{ background: kindColour(entry.kind) }} />
          {entry.label}
        </button>
      </th>
      <td>
        {entry.state === "free" && <span className="text-soft">free: </span>}
        {entry.takes || <span className="text-soft">-</span>}
        {doubted(entry) && (
          <span className="ml-1 font-semibold text-thin" title="rests on hearsay, or sources differ">
            ?
          </span>
        )}
      </td>
      <td>{HELD_NAMES[entry.serviceability]}</td>
      <td className={entry.ordered_as.includes("-") ? "code" : ""}>
        {entry.ordered_as}
        {!entry.ordered_exact && <span className="ml-1 font-semibold text-thin">?</span>}
      </td>
      <FleetCells entry={entry} rates={rates} />
    </tr>
  );
}

/** What is not known of the minutes to a part. */
function minutesTitle(entry: PositionDetail): string | undefined {
  const guessed =
    entry.estimated > 0.05 ? `${figure(entry.estimated, 1)} min of it estimated: nobody timed them` : null;
  return [entry.why_not, guessed].filter(Boolean).join("; ") || undefined;
}

/** What the log, the fleet and the shelves say of a position. */
function FleetCells({ entry, rates }: { entry: PositionDetail; rates: Rates | null }) {
  const units = entry.fitted.reduce((sum, part) => sum + part.units, 0);
  const onHand = entry.fitted.reduce((sum, part) => sum + part.on_hand, 0);
  const rated = entry.fitted.map((part) => rates?.get(part.part_number)).find((part) => part && part.rate !== null);
  const waiting = rates === null && entry.fitted.length > 0;
  return (
    <>
      <td className="text-right whitespace-nowrap" title={minutesTitle(entry)}>
        {entry.at_least && "≥ "}
        {entry.minutes === null ? "?" : figure(entry.minutes, entry.minutes < 10 ? 1 : 0)}
        {entry.estimated > 0.05 && <span className="font-semibold text-thin">*</span>}
      </td>
      <td className="text-right">{units ? figure(units) : "-"}</td>
      <td className="text-right whitespace-nowrap">
        {rated?.rate ? (
          <>
            {perHundred(rated.rate)}{" "}
            <span className="text-soft">
              ({perHundred(rated.low ?? 0)} to {perHundred(rated.high ?? 0)})
            </span>
          </>
        ) : waiting ? (
          <span className="text-soft">…</span>
        ) : (
          "-"
        )}
      </td>
      <td className="text-right">{entry.fitted.length ? figure(onHand) : "-"}</td>
      <td className="text-soft">{entry.grade ? GRADE_NAMES[entry.grade] : "-"}</td>
    </>
  );
}
