import { useMemo } from "react";
import { Link, useLocation, useNavigate, useOutletContext, useParams } from "react-router";
import type { Schemas } from "@/api/client";
import { plural } from "@/lib/format";
import { useAddress } from "@/lib/useAddress";
import { useSite } from "@/lib/useSite";
import { useWalk } from "@/lib/useWalk";
import { FINDING_NAMES, FINDINGS, KIND_NAMES, KINDS } from "@/lib/words";
import { FailedToRead } from "@/ui/FailedToRead";
import { Failed, Nothing, Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { IncidentPlate } from "./IncidentPlate";
import { LogTable } from "./LogTable";
import { exportAddress, type LogEntry, type LogFilter, useLog } from "./ledger.queries";
import { OldLogPage } from "./OldLogPage";
import { RepeatsPage, SharesPage } from "./PatternPages";
import { RecordForm } from "./RecordForm";

type Session = Schemas["SessionState"];

const BOX = "border-b border-ink bg-paper font-semibold text-ink";

function Filters({ filter, onChange }: { filter: LogFilter; onChange: (key: string, value: string) => void }) {
  return (
    <div className="mt-3 flex flex-wrap items-baseline gap-x-5 gap-y-1 border-t border-rule pt-2 text-soft">
      <label>
        Finding{" "}
        <select className={BOX} value={filter.finding} onChange={(event) => onChange("finding", event.target.value)}>
          <option value="">any</option>
          {FINDINGS.map((name) => (
            <option key={name} value={name}>
              {FINDING_NAMES[name]}
            </option>
          ))}
        </select>
      </label>
      <label>
        Kind{" "}
        <select className={BOX} value={filter.kind} onChange={(event) => onChange("kind", event.target.value)}>
          <option value="">any</option>
          {[...KINDS, "mainboard", "palm_rest", "keyboard"].map((name) => (
            <option key={name} value={name}>
              {KIND_NAMES[name]}
            </option>
          ))}
        </select>
      </label>
      <label className="flex-1">
        Tag or words{" "}
        <input
          className={`${BOX} w-[150px]`}
          value={filter.q}
          onChange={(event) => onChange("q", event.target.value)}
          placeholder="SK-0417"
        />
      </label>
    </div>
  );
}

/** The filter is part of the address, so that a list can be sent to a colleague. */
function useLogFilter(): [LogFilter, (key: string, value: string) => void] {
  const [site] = useSite();
  const [params, changeAddress] = useAddress();
  const change = (key: string, value: string): void => changeAddress({ [key]: value }, "replace");
  const text = (key: string): string => params.get(key) ?? "";
  return [{ finding: text("finding"), kind: text("kind"), q: text("q"), site }, change];
}

/** What the log says beside its lines, and its ways out and in. */
function Tools({ filter, search, lead }: { filter: LogFilter; search: string; lead: boolean }) {
  const link = "text-accent underline";
  return (
    <nav aria-label="Ledger" className="mt-1 flex flex-wrap gap-x-4">
      <Link className={link} to={{ pathname: "/ledger/repeats", search }}>
        Repeat offenders
      </Link>
      <Link className={link} to={{ pathname: "/ledger/shares", search }}>
        No-fault shares
      </Link>
      {lead && (
        <Link className={link} to={{ pathname: "/ledger/old", search }}>
          Import an old log
        </Link>
      )}
      <span className="ml-auto text-soft">
        Export{" "}
        {(["csv", "xlsx", "json"] as const).map((kind) => (
          <a key={kind} className={`${link} ml-2`} href={exportAddress(kind, filter)} download>
            {kind.toUpperCase()}
          </a>
        ))}
      </span>
    </nav>
  );
}

interface LogProps {
  log: ReturnType<typeof useLog>;
  entries: LogEntry[];
  chosen: number | null;
  onChoose: (id: number) => void;
}

function Log({ log, entries, chosen, onChoose }: LogProps) {
  if (log.isError) {
    return <FailedToRead title="The log cannot be shown" query={log} />;
  }
  if (log.isPending) return <Waiting what="Reading the log" />;
  if (entries.length === 0) return <Nothing>No incident is like that. Widen the filter, or record one.</Nothing>;
  return (
    <LogTable
      entries={entries}
      chosen={chosen}
      onChoose={onChoose}
      more={log.hasNextPage}
      loading={log.isFetchingNextPage}
      onMore={() => void log.fetchNextPage()}
    />
  );
}

interface RightPageProps {
  incident: string | undefined;
  shown: number | null;
  session: Session;
  mayRecord: boolean;
  onOpen: (id: number) => void;
}

function RightPage({ incident, shown, session, mayRecord, onOpen }: RightPageProps) {
  if (incident === "shares") return <SharesPage />;
  if (incident === "repeats") return <RepeatsPage />;
  if (incident === "old") return <OldLogPage session={session} />;
  if (incident === "new" && mayRecord) return <RecordForm session={session} onDone={onOpen} />;
  if (incident === "new") {
    return (
      <Failed title="Not allowed" detail="Recording needs the role technician or lead; you are signed in as reader." />
    );
  }
  if (shown === null) {
    return <Nothing>Choose an incident from the log: its history, and settling or correcting it, open here.</Nothing>;
  }
  return <IncidentPlate key={shown} id={shown} mayCorrect={mayRecord} asOf={session.as_of} onCorrect={onOpen} />;
}

export default function LedgerPage() {
  const session = useOutletContext<Session>();
  const { incident } = useParams();
  const navigate = useNavigate();
  const { search } = useLocation();
  const [filter, change] = useLogFilter();
  const log = useLog(filter);
  const entries = useMemo(() => log.data?.pages.flatMap((page) => page.entries) ?? [], [log.data]);
  const total = log.data?.pages[0]?.total ?? null;
  const first = entries[0]?.incident_id ?? null; // the log opens on what is to be settled first
  const chosen = incident && !/^\d+$/.test(incident) ? null : incident ? Number(incident) : first;
  const open = (id: number): void => void navigate({ pathname: `/ledger/${id}`, search });
  const ids = useMemo(() => entries.map((entry) => entry.incident_id), [entries]);
  useWalk(ids, chosen, open);
  const mayRecord = session.user?.role !== "reader";

  return (
    <Spread
      name="ledger"
      leftLabel="Failure log"
      turned={incident}
      rightLabel="Incident"
      share={60}
      left={
        <div className="flex h-full flex-col px-4 pt-4">
          <div className="flex items-baseline gap-4">
            <h1 className="text-[1.75rem]">Ledger</h1>
            <p className="flex-1 text-soft">
              {total !== null && `${plural(total, "incident")}; `}findings still to settle come first
            </p>
            {mayRecord && (
              <Link
                to={{ pathname: "/ledger/new", search }}
                className="rounded-[2px] border border-ink bg-ink px-3 py-1.5 font-semibold text-leaf hover:bg-accent"
              >
                Record an incident
              </Link>
            )}
          </div>
          <Tools filter={filter} search={search} lead={session.user?.role === "lead"} />
          <Filters filter={filter} onChange={change} />
          <Log log={log} entries={entries} chosen={chosen} onChoose={open} />
        </div>
      }
      right={<RightPage incident={incident} shown={chosen} session={session} mayRecord={mayRecord} onOpen={open} />}
    />
  );
}
