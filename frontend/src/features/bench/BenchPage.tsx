import { useState } from "react";
import { Link, useNavigate, useOutletContext, useParams, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { plural, shortDay } from "@/lib/format";
import { useKeys } from "@/lib/useKeys";
import { useWalk } from "@/lib/useWalk";
import { SettingsSheet } from "@/shared/SettingsSheet";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing, Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { ApprovalsSheet } from "./ApprovalsSheet";
import {
  type Day,
  type JobLine,
  useApprovals,
  useBenchSettings,
  useDay,
  useExceptions,
  useJobs,
} from "./bench.queries";
import { ComesUp } from "./ComesUp";
import { DayRight } from "./DayRight";
import { DayTable } from "./DayTable";
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

/** What the left shows: the day's work, or jobs that ended. */
function useWork(ended: boolean) {
  const past = useJobs(ended, ended);
  const day = useDay();
  if (ended) return { found: past, rows: past.data?.jobs ?? [], day: null };
  return { found: day, rows: day.data?.jobs.map((one) => one.line) ?? [], day: day.data ?? null };
}

/** The bench tab: the day's work on the left, the chosen job's record or a new job on the right. */
export default function BenchPage() {
  const { job } = useParams();
  const [params] = useSearchParams();
  const session = useOutletContext<Schemas["SessionState"]>();
  const ended = params.get("show") === "ended";
  const { found, rows, day } = useWork(ended);
  const navigate = useNavigate();
  const search = params.toString();
  const open = (id: number | "new"): void => void navigate({ pathname: `/bench/${id}`, search });
  const chosen = job && /^\d+$/.test(job) ? Number(job) : null;
  useWalk(
    rows.map((row) => row.id),
    chosen,
    open,
  );
  useKeys({ j: () => open("new") });
  if (found.isError) return <FailedToRead title="No jobs" query={found} />;
  if (!found.data) return <Waiting what="Fetching the jobs" />;
  return (
    <Spread
      name="bench day"
      share={57}
      least={26}
      leftLabel="Jobs"
      turned={job}
      rightLabel="Job"
      left={
        <Index
          rows={rows}
          day={day}
          today={session.as_of}
          chosen={chosen ?? (ended && !job ? (rows[0]?.id ?? null) : null)}
          ended={ended}
          opening={!job && !ended}
          lead={session.user?.role === "lead"}
          onOpen={open}
        />
      }
      right={<Right job={job} first={ended ? rows[0] : undefined} session={session} />}
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
  if (job === "new") {
    return <OpenForm session={session} tag={params.get("tag") ?? ""} targets={params.get("to")?.split(",") ?? []} />;
  }
  if (!job && !first) return <DayRight session={session} />;
  const id = job ? Number(job) : first?.id;
  return id ? <JobPlate key={id} id={id} session={session} /> : <Nothing>There is no job {job}.</Nothing>;
}

interface IndexProps {
  rows: JobLine[];
  /** What is in hand with where it stands; null while ended jobs are shown. */
  day: Day | null;
  today: string;
  chosen: number | null;
  ended: boolean;
  /** Whether a job can be opened beside it anyway. */
  opening: boolean;
  lead: boolean;
  onOpen: (id: number | "new") => void;
}

/** One sentence that says it all. */
function daySentence(day: Day): string {
  const waits = day.jobs.filter((job) => job.tone === "waits").length;
  const stopped = day.jobs.filter((job) => job.tone === "stopped").length;
  if (day.jobs.length === 0) return "Nothing is in hand.";
  const more = [
    waits > 0 ? `${waits === 1 ? "one waits" : `${waits} wait`}` : "",
    stopped > 0 ? `${stopped === 1 ? "one cannot go on" : `${stopped} cannot go on`}` : "",
  ].filter(Boolean);
  return `${plural(day.jobs.length, "job is", "jobs are")} in hand${more.length > 0 ? `: ${more.join(", ")}` : ""}.`;
}

function ExceptionsLink({ onOpen }: { onOpen: () => void }) {
  const open = useExceptions().data?.exceptions.filter((row) => row.cure !== null).length ?? 0;
  return (
    <button type="button" className="text-accent underline" onClick={onOpen}>
      {open > 0 ? `exceptions, ${open} to settle` : "exceptions"}
    </button>
  );
}

const SHEETS = ["settings", "approvals", "exceptions"] as const;
type SheetName = (typeof SHEETS)[number];

/** A sheet that an address asks for, so that other pages lead to it. */
const sheetNamed = (name: string | null): SheetName | null => SHEETS.find((sheet) => sheet === name) ?? null;

function Index({ rows, day, today, chosen, ended, opening, lead, onOpen }: IndexProps) {
  const [search] = useSearchParams();
  const [sheet, setSheet] = useState<SheetName | null>(() => sheetNamed(search.get("open")));
  const asked = useApprovals().data?.approvals.length ?? 0;
  return (
    <div className="p-4">
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-[1.75rem]">Bench</h1>
        {ended && <p className="text-soft">{plural(rows.length, "job")} ended</p>}
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
          {!opening && (
            <Link className="font-semibold text-accent underline" to="/bench/new">
              Open a job
            </Link>
          )}
        </span>
      </header>
      {day && <p className="font-serif text-[1.2rem] leading-snug">{daySentence(day)}</p>}
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
      {day && day.jobs.length > 0 && <DayTable jobs={day.jobs} chosen={chosen} onOpen={onOpen} />}
      {day && <ComesUp day={day} today={today} />}
      {ended && <EndedTable rows={rows} chosen={chosen} onOpen={onOpen} />}
    </div>
  );
}

function EndedTable({ rows, chosen, onOpen }: Pick<IndexProps, "rows" | "chosen" | "onOpen">) {
  if (rows.length === 0) return <Nothing>No job has ended yet.</Nothing>;
  return (
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
              <Link className="code" to={`/bench/${row.id}?show=ended`}>
                {row.id}
              </Link>
            </td>
            <td className="pr-3">
              <span className="code">{row.tag}</span> {row.model}, {row.site}
              <span className="block text-soft">
                {PURPOSES[row.purpose]}: {row.symptom}
              </span>
            </td>
            <td className="pr-3 whitespace-nowrap">
              {STATES[row.state]}
              {row.state === "closed" && row.failed_test && (
                <span className="block font-semibold text-short">not cured</span>
              )}
            </td>
            <td className="text-right whitespace-nowrap">{shortDay(row.opened_on)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
