import type { ReactNode } from "react";
import { plural } from "@/lib/format";
import { minutesWords } from "@/lib/words";
import type { ModelPageData, RouteAsk, RouteData } from "./models.queries";

export interface RouteSideProps {
  page: ModelPageData;
  route: RouteData;
  ask: RouteAsk;
  change: (name: string, values: string[]) => void;
}

/** Beside the steps: minutes and kit, trays and leads, the schools and options, and what else is within reach. */
export function RouteSide({ route, ask, change }: RouteSideProps) {
  const total = route.minutes_open.mean + route.minutes_close.mean;
  const guessed = route.minutes_open.estimated + route.minutes_close.estimated;
  const low = route.minutes_open.low + route.minutes_close.low;
  const high = route.minutes_open.high + route.minutes_close.high;
  return (
    <div className="text-[0.95rem]">
      <Block title="Minutes">
        <p>
          <strong>
            {route.ends.length > 0 && "at least "}
            {minutesWords(total)}
          </strong>
          , {minutesWords(low)} to {minutesWords(high)}: {minutesWords(route.minutes_open.mean)} to open,{" "}
          {minutesWords(route.minutes_close.mean)} to close. {changes(route)}
        </p>
        {guessed > 0.05 && (
          <p className="text-thin">{minutesWords(guessed)} of it estimated, because nobody timed those steps.</p>
        )}
        {route.ends.length > 0 && <p className="text-thin">What lies behind the last known step is not counted.</p>}
        {route.learnt_jobs > 0 && (
          <p>
            <strong>{minutesWords(total * route.learnt_factor)}</strong> by what{" "}
            {route.learnt_jobs === 1 ? "one closed job" : `${route.learnt_jobs} closed jobs`} on this model took.
          </p>
        )}
        {route.saved_minutes > 0.05 && (
          <p className="text-covered">{minutesWords(route.saved_minutes)} saved against one visit for each part.</p>
        )}
      </Block>
      {route.short && (
        <Block title="Power">
          <p>
            Cutting the power lies on a way of its own: {minutesWords(route.short.saves)} of the {minutesWords(total)}.
            Without it {route.short.steps.length} steps are left; it leaves out:{" "}
            {route.short.leaves_out.map((text) => text[0]?.toLowerCase() + text.slice(1)).join("; ")}.
          </p>
          <p className="text-short">Only a lead may waive the isolation, at the bench, beside whoever works.</p>
        </Block>
      )}
      <Kit route={route} />
      <Block title="Tray and leads">
        <table className="w-full">
          <thead>
            <tr className="border-b border-rule">
              <th scope="col">Length group</th>
              <th scope="col" className="text-right">
                Loose
              </th>
              <th scope="col" className="text-right">
                Captive
              </th>
              <th scope="col" className="text-right">
                Not known
              </th>
            </tr>
          </thead>
          <tbody>
            {route.tray.map((group) => (
              <tr key={group.group} className="border-b border-dotted border-rule">
                <th scope="row" className="font-normal">
                  {group.group}
                </th>
                <td className="text-right">{counted(group, group.loose)}</td>
                <td className="text-right text-soft">{group.captive || "-"}</td>
                <td className="text-right text-thin">{counted(group, group.unknown)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="mt-1">
          {plural(route.leads.length, "lead")} out and back: {route.leads.join(", ") || "none"}
        </p>
      </Block>
      <Choices route={route} ask={ask} change={change} />
      {route.near.length > 0 && (
        <Block title="While it is open">
          <ul>
            {route.near.slice(0, 6).map((item) => (
              <li key={item.position} className="flex justify-between gap-2 border-b border-dotted border-rule">
                <button
                  type="button"
                  className="text-accent underline"
                  onClick={() => change("to", [...ask.to, item.position])}
                >
                  {item.label}
                </button>
                <span>
                  {minutesWords(item.more_now)} more, {minutesWords(item.alone)} alone
                </span>
              </li>
            ))}
          </ul>
        </Block>
      )}
    </div>
  );
}

/** What must lie ready, and which bit seats in which screw. */
function Kit({ route }: { route: RouteData }) {
  return (
    <Block title="Kit">
      <p>{[...route.tools, ...route.aids].join(", ") || (route.tools_unsaid ? "" : "hands only")}</p>
      {route.tools_unsaid > 0 && (
        <p className="text-thin">
          {route.tools_unsaid === 1 ? "One step does" : `${route.tools_unsaid} steps do`} not say with which tool: take
          the whole set.
        </p>
      )}
      {route.bits.length > 0 && (
        <details>
          <summary className="cursor-pointer text-accent underline">Which bit seats</summary>
          <ul className="list-outside list-disc pl-4">
            {route.bits.map((item) => (
              <li key={item.bit}>
                <span className="code">{item.bit}</span> {item.words}
              </li>
            ))}
            {route.bits_how.map((words) => (
              <li key={words}>{words}</li>
            ))}
          </ul>
        </details>
      )}
      {route.consumables.length > 0 && <p>Used up: {route.consumables.join(", ")}</p>}
      {route.spares.length > 0 && <p className="text-short">Spare needed first: {route.spares.join(", ")}</p>}
      {route.carries_over.map((item) => (
        <p key={item.position}>
          Carries over from the old {item.position.toLowerCase()}: {item.items.join(", ")}
        </p>
      ))}
    </Block>
  );
}

/** A number of the page; at least or about so many where nobody counted. */
function counted(group: RouteData["tray"][number], number: number): string {
  if (group.least && group.loose + group.unknown === 0) return "?";
  if (!number) return "-";
  return `${group.least ? "≥ " : ""}${group.about ? "~" : ""}${number}`;
}

function changes(route: RouteData): string {
  const count = route.tool_changes === 1 ? "One tool change" : `${route.tool_changes} tool changes`;
  const turned = route.turns === 1 ? " and one turn of the machine" : ` and ${route.turns} turns of the machine`;
  return `${count}${route.turns ? turned : ""}${route.order_proven ? ", no order has fewer" : ", the best order found"}.`;
}

/** Where good people differ: the pack lifted out or only unplugged, the assembly or the part itself, optional steps. */
function Choices({ route, ask, change }: Omit<RouteSideProps, "page">) {
  const toggled = (values: string[], name: string): string[] =>
    values.includes(name) ? values.filter((other) => other !== name) : [...values, name];
  const itself = [
    ...ask.itself.map((key) => ({ key, label: key.replaceAll("_", " "), minutes: null as number | null })),
    ...route.escalations
      .filter((item) => item.other_minutes !== null && !ask.itself.includes(item.target)) // the answer follows the asking
      .map((item) => ({ key: item.target, label: item.target_label, minutes: item.other_minutes })),
  ];
  return (
    <Block title="Choices">
      <label className="flex items-baseline gap-2 py-1">
        <input type="checkbox" checked={ask.packOut} onChange={() => change("pack", ask.packOut ? [] : ["out"])} />
        <span>lift the pack out before other work; unplugging alone also isolates</span>
      </label>
      {itself.map((item) => (
        <label key={item.key} className="flex items-baseline gap-2 py-1">
          <input
            type="checkbox"
            checked={ask.itself.includes(item.key)}
            onChange={() => change("itself", toggled(ask.itself, item.key))}
          />
          <span>
            take the {item.label.toLowerCase()} out itself, needs approval
            {item.minutes !== null && <span className="text-soft"> ({minutesWords(item.minutes)} in all)</span>}
          </span>
        </label>
      ))}
      {ask.include.map((id) => (
        <label key={id} className="flex items-baseline gap-2 py-1">
          <input type="checkbox" checked onChange={() => change("include", toggled(ask.include, id))} />
          <span>{id.replaceAll("_", " ")}</span>
        </label>
      ))}
      {route.optional.map((step) => (
        <label key={step.id} className="flex items-baseline gap-2 py-1">
          <input type="checkbox" checked={false} onChange={() => change("include", toggled(ask.include, step.id))} />
          <span>
            {step.id.replaceAll("_", " ")}, {minutesWords(step.minutes)} more: {step.reason}
          </span>
        </label>
      ))}
    </Block>
  );
}

function Block({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="mt-3 first:mt-0">
      <h2 className="border-b border-rule pb-0.5 font-sans text-base">{title}</h2>
      <div className="pt-1">{children}</div>
    </section>
  );
}
