import { useState } from "react";
import { isProblem, type Schemas } from "@/api/client";
import { day, plural } from "@/lib/format";
import { DUTY_NAMES } from "@/lib/words";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { TextField } from "@/ui/Field";
import { type Change, isPlanned, useMakePlan, usePlanOfFleet, useWithdraw } from "./scenarios.queries";

type Planned = Schemas["PlannedChange"];

export interface FleetPlanProps {
  changes: Change[];
  mayPlan: boolean;
  onPlanned: () => void;
}

/** What is decided: every outlook counts on it. A lead puts the changes being looked at into it, or withdraws from it. */
export function FleetPlan({ changes, mayPlan, onPlanned }: FleetPlanProps) {
  const found = usePlanOfFleet();
  const withdraw = useWithdraw();
  const plans = found.data ?? [];
  return (
    <section aria-label="Plan of the fleet" className="mt-6">
      <h2 className="border-b border-ink text-[1.2rem]">Plan of the fleet</h2>
      <p className="text-soft">What is decided for days to come. Every outlook counts on it.</p>
      {found.isError && <FailedToRead title="The plan cannot be shown" query={found} />}
      {found.data && plans.length === 0 && <p className="mt-1">Nothing is planned.</p>}
      {plans.length > 0 && (
        <table className="mt-1 w-full">
          <thead>
            <tr className="border-b border-rule">
              <th scope="col" className="py-1 pr-3">
                On
              </th>
              <th scope="col" className="pr-3">
                Planned
              </th>
              <th scope="col" className="pr-3">
                Decided
              </th>
              {mayPlan && (
                <th scope="col">
                  <span className="sr-only">Withdraw</span>
                </th>
              )}
            </tr>
          </thead>
          <tbody>
            {plans.map((plan) => (
              <tr key={plan.id} className="border-b border-dotted border-rule align-baseline">
                <td className="whitespace-nowrap py-1 pr-3">{day(plan.planned_on)}</td>
                <td className="pr-3">
                  {planWords(plan)}
                  {plan.note && <span className="block text-[0.93rem] text-soft">{plan.note}</span>}
                </td>
                <td className="pr-3 text-[0.93rem] text-soft">
                  <span className="whitespace-nowrap">
                    {plan.recorded_at ? day(plan.recorded_at.slice(0, 10)) : "not on record"}
                  </span>
                  {plan.author && <span className="block">{plan.author}</span>}
                </td>
                {mayPlan && (
                  <td className="text-right">
                    <button
                      type="button"
                      className="inline-block min-h-[25px] text-accent underline"
                      aria-label={`Withdraw: ${planWords(plan)} on ${day(plan.planned_on)}`}
                      disabled={withdraw.isPending}
                      onClick={() => withdraw.mutate(plan.id)}
                    >
                      withdraw
                    </button>
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {withdraw.isError && (
        <p role="alert" className="mt-1 font-semibold text-short">
          {isProblem(withdraw.error) ? withdraw.error.detail : withdraw.error.message}
        </p>
      )}
      {mayPlan && changes.length > 0 && <PlanForm changes={changes} onPlanned={onPlanned} />}
    </section>
  );
}

/** "buy 60 Packet 14 b for Eldhaven, office hours". */
export function planWords(plan: Planned): string {
  const duty = DUTY_NAMES[plan.duty] ?? plan.duty;
  if (plan.action === "purchase") return `buy ${plan.quantity} ${plan.model} for ${plan.site}, ${duty}`;
  if (plan.action === "retire") return `retire ${plan.quantity} ${plan.model} at ${plan.site}, ${duty}`;
  return `put ${plan.part_number} into ${plan.position} of ${plan.quantity} ${plan.model} at ${plan.site}, ${duty}`;
}

function PlanForm({ changes, onPlanned }: Pick<FleetPlanProps, "changes" | "onPlanned">) {
  const [note, setNote] = useState("");
  const plan = useMakePlan();
  const planned = changes.filter(isPlanned);
  const left = changes.length - planned.length;
  const problem = isProblem(plan.error) ? plan.error : null;
  return (
    <form
      className="mt-3 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        plan.mutate({ changes: planned, note }, { onSuccess: onPlanned });
      }}
    >
      <div className="min-w-[16rem] flex-1">
        <TextField
          label="Decided because"
          hint={left > 0 ? "Another duty or a hotter season is no plan: it stays a scenario." : undefined}
          fault={problem ? (problem.at("note") ?? problem.detail) : undefined}
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
      </div>
      <Button type="submit" disabled={planned.length === 0 || plan.isPending}>
        Put {plural(planned.length, "change")} into the plan
      </Button>
    </form>
  );
}
