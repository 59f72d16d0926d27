import { useState } from "react";
import { Link, useNavigate, useOutletContext, useParams, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { plural, shortDay } from "@/lib/format";
import { useKeys } from "@/lib/useKeys";
import { useWalk } from "@/lib/useWalk";
import { SettingsSheet } from "@/shared/SettingsSheet";
import { Failed, Nothing, Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { ApprovalsSheet } from "./ApprovalsSheet";
import { type JobLine, useApprovals, useBenchSettings, useExceptions, useJobs } from "./bench.queries";
import { ExceptionsSheet } from "./ExceptionsSheet";
import { JobPlate } from "./JobPlate";
import { PURPOSES, STATES } from "./local";
import { OpenForm } from "./OpenForm";

function BenchSettings({ onClose }: { onClose: () => void }) {
  return (
    <SettingsSheet
      title="Settings of the bench"
      about="They hold from today on, for every job."
      found={useBenchSettings()}
      onClose={onClose}
    />
  );
}

/** The bench tab: jobs in hand on the left, the chosen job's record or a new job on the right. */
export default function BenchPage() {
  const { job } = useParams();
  const [params] = useSearchParams();
  const session = useOutletContext<Schemas["SessionState"]>();
  const ended = params.get("show") === "ended";
  const jobs = useJobs(ended);
  const navigate = useNavigate();
  const search = params.toString();
  const open = (id: number | "new"): void => void navigate({ pathname: `/bench/${id}`, search });
  const rows = jobs.data?.jobs ?? [];
  const chosen = job && /^\d+$/.test(job) ? Number(job) : null;
  useWalk(
    rows.map((row) => row.id),
    chosen,
    open,
  );
  useKeys({ j: () => open("new") });
  if (jobs.isError) return <Failed title="No jobs" detail={jobs.error.message} onRetry={() => void jobs.refetch()} />;
  if (!jobs.data) return <Waiting what="Fetching the jobs" />;
  const first = rows[0];
  return (
    <Spread
      name="bench"
      share={38}
      least={26}
      leftLabel="Jobs"
      rightLabel="Job"
      left={
        <Index
          rows={rows}
          chosen={chosen ?? (job ? null : (first?.id ?? null))}
          ended={ended}
          lead={session.user?.role === "lead"}
          onOpen={open}
        />
      }
      right={<Right job={job} first={first} session={session} />}
    />
  );
}

function Right({
  job,
  first,
  session,
}: {
  job: string | undefined;
  first: JobLine | undefined;
  session: Schemas["SessionState"];
}) {
  const [params] = useSearchParams();
  if (job === "new" || (!job && !first)) {
    return <OpenForm session={session} tag={params.get("tag") ?? ""} targets={params.get("to")?.split(",") ?? []} />;
  }
  const id = job ? Number(job) : first?.id;
  return id ? <JobPlate key={id} id={id} session={session} /> : <Nothing>There is no job {job}.</Nothing>;
}

interface IndexProps {
  rows: JobLine[];
  chosen: number | null;
  ended: boolean;
  lead: boolean;
  onOpen: (id: number | "new") => void;
}

function ExceptionsLink({ onOpen }: { onOpen: () => void }) {
  const open = useExceptions().data?.exceptions.filter((row) => row.cure !== null).length ?? 0;
  return (
    <button type="button" className="text-accent underline" onClick={onOpen}>
      {open > 0 ? `exceptions, ${open} to settle` : "exceptions"}
    </button>
  );
}

function Index({ rows, chosen, ended, lead, onOpen }: IndexProps) {
  const [sheet, setSheet] = useState<"settings" | "approvals" | "exceptions" | null>(null);
  const asked = useApprovals().data?.approvals.length ?? 0;
  const waiting = rows.filter((row) => ["waiting", "parked", "stopped"].includes(row.state)).length;
  return (
    <div className="p-4">
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-[1.75rem]">Bench</h1>
        <p className="text-soft">
          {plural(rows.length, "job")} {ended ? "ended" : "in hand"}
          {waiting > 0 && !ended && `, ${waiting} not going on`}
        </p>
        <span className="ml-auto flex gap-4">
          <Link className="text-accent underline" to={ended ? "/bench" : "/bench?show=ended"}>
            {ended ? "in hand" : "ended"}
          </Link>
          <ExceptionsLink onOpen={() => setSheet("exceptions")} />
          {lead && (
            <button type="button" className="text-accent underline" onClick={() => setSheet("settings")}>
              settings
            </button>
          )}
          <Link className="font-semibold text-accent underline" to="/bench/new">
            Open a job
          </Link>
        </span>
      </header>
      {asked > 0 && (
        <button
          type="button"
          className="mt-2 w-full border-2 border-thin bg-leaf px-3 py-2 text-left font-semibold text-thin"
          onClick={() => setSheet("approvals")}
        >
          {asked === 1 ? "One approval is asked" : `${asked} approvals are asked`}: look and answer
        </button>
      )}
      {sheet === "settings" && <BenchSettings onClose={() => setSheet(null)} />}
      {sheet === "approvals" && <ApprovalsSheet onClose={() => setSheet(null)} />}
      {sheet === "exceptions" && <ExceptionsSheet onClose={() => setSheet(null)} />}
      {rows.length === 0 ? (
        <Nothing>
          {ended ? "No job has ended yet." : "No job is in hand. Open one from an asset tag, typed or scanned."}
        </Nothing>
      ) : (
        <table className="mt-3 w-full">
          <thead>
            <tr className="border-b border-ink">
              <th scope="col" className="py-1 pr-3">
                Job
              </th>
              <th scope="col">Machine and complaint</th>
              <th scope="col">State</th>
              <th scope="col" className="text-right">
                Since
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr
                key={row.id}
                aria-current={row.id === chosen ? "true" : undefined}
                className={`cursor-pointer border-b border-dotted border-rule align-top ${row.id === chosen ? "bg-pick" : ""}`}
                onClick={() => onOpen(row.id)}
              >
                <td className="py-1.5 pr-3">
                  <Link className="code" to={`/bench/${row.id}${ended ? "?show=ended" : ""}`}>
                    {row.id}
                  </Link>
                </td>
                <td className="pr-3">
                  <span className="code">{row.tag}</span> {row.model}, {row.site}
                  <span className="block text-soft">
                    {PURPOSES[row.purpose]}: {row.symptom}
                  </span>
                </td>
                <td className={`pr-3 whitespace-nowrap ${TONES[row.state] ?? ""}`}>
                  {STATES[row.state]}
                  {row.state === "closed" && row.failed_test && (
                    <span className="block font-semibold text-short">not cured</span>
                  )}
                  {row.in_hand_of && <span className="block text-soft">{row.in_hand_of}</span>}
                </td>
                <td className="text-right whitespace-nowrap">{shortDay(row.opened_on)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

const TONES: Record<string, string> = {
  stopped: "font-semibold text-short",
  parked: "font-semibold text-thin",
  waiting: "text-thin",
  running: "font-semibold",
};
