import { useState } from "react";
import { isProblem, type Schemas } from "@/api/client";
import { plural, shortDay } from "@/lib/format";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { useIssue } from "./bench.queries";
import type { Job } from "./local";

/** How it stands with the part a job waits for. */
export function waitedWords(waited: Schemas["WaitedView"]): string {
  if (waited.kept) return `${waited.part_name} lies there, kept for this machine`;
  if (waited.due_on === null) return `${waited.part_name}: nothing is on its way`;
  return `${waited.part_name}, next due ${shortDay(waited.due_on)} with ${waited.due_with ?? "an order"}`;
}

/** Parts in the job's hands: handed out of a shelf, given back where they are not used. */
export function Issued({ job, may }: { job: Job; may: boolean }) {
  const issue = useIssue(job.id);
  const [number, setNumber] = useState("");
  const problem = isProblem(issue.error) ? issue.error : null;
  if (!may && job.issued.length === 0) return null;
  return (
    <section className="no-print mt-4" aria-label="Parts in the job's hands">
      <h3 className="border-b border-rule text-[1.15rem]">Parts in the job's hands</h3>
      <ul>
        {job.issued.map((row) => (
          <li
            key={`${row.part_number}${row.site}`}
            className="flex items-baseline border-b border-dotted border-rule py-1"
          >
            <span>
              {plural(row.quantity, "part")} <span className="code">{row.part_number}</span> {row.part_name}, of{" "}
              {row.site}
            </span>
            {may && (
              <Button
                look="quiet"
                className="ml-auto py-0!"
                aria-label={`Give back ${row.part_number}`}
                disabled={issue.isPending}
                onClick={() =>
                  issue.mutate({
                    act: "give_back",
                    part_number: row.part_number,
                    site: row.site,
                    quantity: row.quantity,
                  })
                }
              >
                Give back
              </Button>
            )}
          </li>
        ))}
      </ul>
      {may && (
        <form
          className="mt-2 flex flex-wrap items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            issue.mutate(
              { act: "issue", part_number: number.trim(), site: job.site_code, quantity: 1 },
              { onSuccess: () => setNumber("") },
            );
          }}
        >
          <div className="w-[24ch]">
            <TextField
              label={`Hand out, from ${job.site}`}
              className="code"
              value={number}
              placeholder="part number"
              onChange={(event) => setNumber(event.target.value)}
            />
          </div>
          <Button type="submit" disabled={issue.isPending || !number.trim()}>
            Hand out
          </Button>
        </form>
      )}
      {problem && (
        <p role="alert" className="mt-1 font-semibold text-short">
          {problem.faults[0]?.message ?? problem.detail}
        </p>
      )}
    </section>
  );
}
