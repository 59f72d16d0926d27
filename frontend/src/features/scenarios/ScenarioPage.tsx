import { useQueryClient } from "@tanstack/react-query";
import { Link, useOutletContext } from "react-router";
import { isProblem, type Schemas } from "@/api/client";
import { figure, money, shortDay } from "@/lib/format";
import { useAddress } from "@/lib/useAddress";
import { useSite } from "@/lib/useSite";
import { useWalk } from "@/lib/useWalk";
import { Button } from "@/ui/Button";
import { Failed, Nothing } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { ChangeForm } from "./ChangeForm";
import { FleetPlan } from "./FleetPlan";
import { Kept } from "./Kept";
import { PlanPair } from "./PlanPair";
import { Rehearsed } from "./Rehearsed";
import { type Change, isPlanned, type Look, type Pair, useLook, useModelRows, useModels } from "./scenarios.queries";
import { changesOf, changeWords } from "./words";

type Session = Schemas["SessionState"];

/** What if: changes to the fleet on the left with what would follow, one part's plan beside what it would be on the right. */
export default function ScenarioPage() {
  const session = useOutletContext<Session>();
  const [site] = useSite();
  const [params, set] = useAddress();
  const changes = changesOf(params.get("do"));
  const part = params.get("part") ?? undefined;
  const found = useLook(changes, site);
  const models = useModels();
  const client = useQueryClient();
  const change = (next: Change[]): void => set({ do: next.length ? JSON.stringify(next) : null, name: null });
  useWalk(found.data?.parts.map((pair) => pair.number) ?? [], part ?? null, (number) => set({ part: number }));
  return (
    <Spread
      name="scenario"
      share={56}
      least={40}
      leftLabel="Scenario"
      rightLabel="Beside the plan"
      left={
        <div className="p-4">
          <h1 className="text-[1.75rem]">{params.get("name") ?? "What if"}</h1>
          <p className="text-soft">
            A scenario is computed beside the plan of the fleet; the data stay as they are.{" "}
            <Link className="text-accent underline" to="/outlook">
              Back to the outlook
            </Link>
          </p>
          <Changes changes={changes} onChange={change} />
          {models.isSuccess && models.data.length === 0 ? (
            <p className="mt-3">
              There is no model yet to change anything of. Import your own fleet, its parts and its log from the menu
              under your name.
            </p>
          ) : (
            <ChangeForm session={session} onAdd={(one) => change([...changes, one])} />
          )}
          {found.isFetching && (
            <p role="status" className="mt-3 flex items-center gap-3">
              Computing what would follow…{" "}
              <Button onClick={() => void client.cancelQueries({ queryKey: ["scenario", "look"] })}>Stop</Button>
            </p>
          )}
          {found.isError && (
            <Failed
              title="This cannot be looked at"
              detail={isProblem(found.error) ? found.error.detail : found.error.message}
              onRetry={() => void found.refetch()}
            />
          )}
          {found.data && !found.isError && (
            <Follows
              look={found.data}
              chosen={part}
              currency={session.currency}
              onChoose={(number) => set({ part: number })}
            />
          )}
          {changes.length > 0 && found.data && <Rehearsed changes={changes} currency={session.currency} />}
          <Kept
            changes={changes}
            mayKeep={session.user?.role === "lead"}
            onOpen={(kept) => set({ do: JSON.stringify(kept.changes), name: kept.name, part: null })}
          />
          <FleetPlan
            changes={changes}
            mayPlan={session.user?.role === "lead"}
            onPlanned={() => change(changes.filter((one) => !isPlanned(one)))}
          />
        </div>
      }
      right={
        part && changes.length > 0 ? (
          <PlanPair number={part} changes={changes} site={site} />
        ) : (
          <Nothing>
            {changes.length > 0
              ? "Choose a part to see its plan beside what it would be."
              : "Add a change, or open a scenario that was kept."}
          </Nothing>
        )
      }
    />
  );
}

function Changes({ changes, onChange }: { changes: Change[]; onChange: (next: Change[]) => void }) {
  const models = useModelRows();
  const name = (id: number): string => models.find((row) => row.model_id === id)?.name ?? `model ${id}`;
  if (changes.length === 0) return null;
  return (
    <ol className="mt-3 list-decimal pl-6" aria-label="Changes">
      {changes.map((change, place) => {
        const words = changeWords(change, name);
        return (
          <li key={`${place}-${words}`} className="py-0.5">
            {words}{" "}
            <button
              type="button"
              className="text-accent underline"
              aria-label={`Take back: ${words}`}
              onClick={() => onChange(changes.filter((_, other) => other !== place))}
            >
              take back
            </button>
          </li>
        );
      })}
    </ol>
  );
}

interface FollowsProps {
  look: Look;
  chosen: string | undefined;
  currency: string;
  onChoose: (number: string) => void;
}

function Follows({ look, chosen, currency, onChoose }: FollowsProps) {
  const more = look.scenario_year - look.planned_year;
  return (
    <section aria-label="What would follow" className="mt-4">
      <p className="font-serif text-[1.2rem] leading-snug">
        <strong>{figure(look.scenario_year)} parts</strong> in 365 days in place of {figure(look.planned_year)},{" "}
        <strong>
          {figure(Math.abs(more))} {more < 0 ? "fewer" : "more"}
        </strong>
        ; {money(Math.round(look.scenario_cost), currency)} of parts in place of{" "}
        {money(Math.round(look.planned_cost), currency)}.
      </p>
      {look.parts.length === 0 ? (
        <p className="mt-2">No part's demand or order would be another.</p>
      ) : (
        <table className="mt-2 w-full">
          <thead>
            <tr className="border-b border-ink align-bottom">
              <th scope="col" className="py-1">
                Part
              </th>
              <th scope="col" className="text-right">
                A year, planned
              </th>
              <th scope="col" className="text-right">
                What if
              </th>
              <th scope="col" className="text-right">
                Next order, planned
              </th>
              <th scope="col" className="text-right">
                What if
              </th>
            </tr>
          </thead>
          <tbody>
            {look.parts.map((pair) => (
              <PairRow
                key={pair.number}
                pair={pair}
                chosen={pair.number === chosen}
                asOf={look.as_of}
                onChoose={onChoose}
              />
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

interface PairRowProps {
  pair: Pair;
  chosen: boolean;
  asOf: string;
  onChoose: (number: string) => void;
}

function PairRow({ pair, chosen, asOf, onChoose }: PairRowProps) {
  const year = (side: Pair["planned"]): string => (side.year === null ? "not said" : figure(side.year, 1));
  const order = (side: Pair["planned"]): string => {
    const { likely } = side.next_order;
    if (side.quantity > 0) return `${side.quantity}, now`;
    return likely === null || likely <= asOf ? "–" : `likely ${shortDay(likely)}`;
  };
  return (
    <tr
      className={`border-b border-dotted border-rule ${chosen ? "bg-pick" : ""}`}
      aria-current={chosen ? "true" : undefined}
    >
      <th scope="row" className="py-1 font-normal">
        <button type="button" className="text-left text-accent underline" onClick={() => onChoose(pair.number)}>
          {pair.name}
        </button>
        <span className="code block text-[0.93rem] text-soft">{pair.number}</span>
      </th>
      <td className="text-right">{year(pair.planned)}</td>
      <td className="text-right font-semibold">{year(pair.scenario)}</td>
      <td className="text-right">{order(pair.planned)}</td>
      <td className={`text-right ${order(pair.planned) === order(pair.scenario) ? "" : "font-semibold"}`}>
        {order(pair.scenario)}
      </td>
    </tr>
  );
}
