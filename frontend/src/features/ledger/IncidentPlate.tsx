import { useState } from "react";
import { Link } from "react-router";
import { ageWithin, day, plural } from "@/lib/format";
import { FINDING_NAMES } from "@/lib/words";
import { Button } from "@/ui/Button";
import { Failed, Waiting } from "@/ui/Notice";
import { CorrectSheet } from "./CorrectSheet";
import { type LogEntry, useIncident } from "./ledger.queries";

const DONE: Record<string, string> = { replaced: "replaced", removed: "taken out", kept: "looked at, left in" };

function Lines({ entry }: { entry: LogEntry }) {
  return (
    <ul>
      {entry.lines.map((line) => (
        <li key={line.position_id} className="border-b border-dotted border-rule py-1">
          <strong>{line.position}</strong> {DONE[line.action]}
          {line.removed_part && (
            <>
              :{" "}
              <Link to={`/outlook/${line.removed_part}`} className="code text-accent underline">
                {line.removed_part}
              </Link>
              {line.age_days !== null && ` at ${ageWithin(line.age_days, line.age_span_days ?? 0)}`}
            </>
          )}
          {line.fitted_part && (
            <>
              {" "}
              by <span className="code">{line.fitted_part}</span>
              {line.shelf_site && ` from the shelf ${line.shelf_site}`}
            </>
          )}
          {entry.lines.length > 1 && <span className="text-soft"> · {FINDING_NAMES[line.finding]}</span>}
        </li>
      ))}
    </ul>
  );
}

export interface IncidentPlateProps {
  id: number;
  mayCorrect: boolean;
  asOf: string;
  onCorrect: (id: number) => void;
}

/** One incident as it stands, and everything that was ever said of it. */
export function IncidentPlate({ id, mayCorrect, asOf, onCorrect }: IncidentPlateProps) {
  const [correcting, setCorrecting] = useState(false);
  const incident = useIncident(id);
  if (incident.isError) {
    return (
      <Failed
        title={`Incident ${id} cannot be shown`}
        detail={incident.error.message}
        onRetry={() => void incident.refetch()}
      />
    );
  }
  const latest = incident.data?.revisions.at(-1);
  if (!incident.data || !latest) return <Waiting what="Reading the incident" />;
  return (
    <article className="p-4">
      <h2 className="text-[1.4rem]">{latest.reason}</h2>
      <p className="text-soft">
        Incident {id} · {day(latest.occurred_on)} · <span className="code">{latest.tag}</span> · {latest.model} ·{" "}
        {latest.site}
      </p>
      <div className="mt-3 flex items-center gap-4">
        <p className={`flex-1 font-serif text-[1.15rem] font-semibold ${latest.finding === "open" ? "text-thin" : ""}`}>
          {FINDING_NAMES[latest.finding]}
        </p>
        {mayCorrect && (
          <Link className="text-accent underline" to={`/bench/new?tag=${latest.tag}`}>
            Open a job
          </Link>
        )}
        {mayCorrect && (
          <Button
            look="main"
            onClick={() => {
              onCorrect(id); // a settled finding moves down the log: the address keeps it in sight
              setCorrecting(true);
            }}
          >
            {latest.finding === "open" ? "Settle the finding" : "Correct"}
          </Button>
        )}
      </div>
      <h3 className="mt-4 border-b border-rule pb-0.5 font-sans text-[1rem]">What was done</h3>
      <Lines entry={latest} />
      {latest.last_good_on && (
        <p className="mt-1">
          Found at a check; last seen in order on {day(latest.last_good_on)}. It counts as failed between the two days.
        </p>
      )}
      {latest.minutes !== null && <p className="mt-1 text-soft">{plural(latest.minutes, "minute")} at the bench.</p>}
      {latest.note && <p className="mt-2 whitespace-pre-wrap">{latest.note}</p>}
      <h3 className="mt-5 border-b border-rule pb-0.5 font-sans text-[1rem]">History</h3>
      <ol>
        {[...incident.data.revisions].reverse().map((revision) => (
          <li key={revision.number} className="grid grid-cols-[28px_1fr] border-b border-dotted border-rule py-1">
            <span className="text-soft">{revision.number}</span>
            <span>
              {FINDING_NAMES[revision.finding]}, of {day(revision.occurred_on)}
              {revision.last_good_on && ` or earlier, after ${day(revision.last_good_on)}`}: {revision.reason}
              {revision.note && <span className="block text-soft">{revision.note}</span>}
              <span className="block text-[0.88rem] text-soft">
                written {day(revision.recorded_at)} by {revision.author ?? "an import"}
              </span>
            </span>
          </li>
        ))}
      </ol>
      {correcting && <CorrectSheet entry={latest} asOf={asOf} onClose={() => setCorrecting(false)} />}
    </article>
  );
}
