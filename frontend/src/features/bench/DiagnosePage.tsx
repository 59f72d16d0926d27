import { useState } from "react";
import { Link, useOutletContext, useParams, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { percent, plural } from "@/lib/format";
import { kindColour } from "@/lib/words";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { TextField } from "@/ui/Field";
import { Failed, Waiting } from "@/ui/Notice";
import { Sheet } from "@/ui/Sheet";
import { useDiagnosis, useJob, useSymptoms } from "./bench.queries";
import { KnowledgeSheet } from "./KnowledgeSheet";
import type { Job } from "./local";
import { MoreTargets } from "./MoreTargets";
import { PackPane } from "./PackPane";
import { Refused } from "./Refused";
import { ReportPane } from "./ReportPane";
import { TakenNotice } from "./TakenNotice";
import { type Bench, useBench } from "./useBench";

type Diagnosis = Schemas["DiagnosisView"];

/** Diagnosis: what may lie behind the complaint, how likely each is, and the test worth most a minute. */
export default function DiagnosePage() {
  const { job: id } = useParams();
  const job = useJob(Number(id));
  if (job.isError) return <FailedToRead title="No job" query={job} />;
  if (!job.data) return <Waiting what="Fetching the job" />;
  return <Diagnosing job={job.data} />;
}

function Diagnosing({ job }: { job: Job }) {
  const session = useOutletContext<Schemas["SessionState"]>();
  const [params, setParams] = useSearchParams();
  const [typed, setTyped] = useState("");
  const symptoms = useSymptoms(typed.trim() || job.symptom);
  const known = symptoms.data?.symptoms ?? [];
  const symptom = params.get("symptom") ?? begun(job) ?? (known[0]?.share ? known[0].id : null);
  const found = useDiagnosis(job.id, symptom, job.tests.map((one) => one.join(" ")).join("|"));
  const may = session.user?.role !== "reader" && !["closed", "abandoned", "watching"].includes(job.state);
  const [editing, setEditing] = useState(false);
  return (
    <div className="min-h-0 flex-1 overflow-y-auto p-4">
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-[1.75rem]">Diagnosis, job {job.id}</h1>
        <p className="text-soft">
          <span className="code">{job.tag}</span>, {job.model}: {job.symptom}
        </p>
        <span className="ml-auto flex gap-4">
          <Link className="text-accent underline" to={`/bench/${job.id}`}>
            back to the job
          </Link>
          {session.user?.role === "lead" && (
            <button type="button" className="text-accent underline" onClick={() => setEditing(true)}>
              edit what is known
            </button>
          )}
        </span>
      </header>
      <Symptoms
        known={known}
        symptom={symptom}
        typed={typed}
        onType={setTyped}
        onChoose={(id) => setParams({ symptom: id })}
      />
      {symptom === null && <p className="mt-4 text-soft">Choose what the complaint is most like.</p>}
      {found.isError && <Failed title="No diagnosis" detail={found.error.message} />}
      {found.data && symptom !== null && <Table job={job} found={found.data} may={may} />}
      {editing && <KnowledgeSheet onClose={() => setEditing(false)} />}
    </div>
  );
}

/** The symptom whose tests the job has results of. */
function begun(job: Job): string | null {
  return job.tests.at(-1)?.[2] || null;
}

interface SymptomsProps {
  known: Schemas["SymptomView"][];
  symptom: string | null;
  typed: string;
  onType: (words: string) => void;
  onChoose: (id: string) => void;
}

const NEAR = 4;

/** What the complaint may be about: what its own words mean first, all others behind one click. */
function Symptoms({ known, symptom, typed, onType, onChoose }: SymptomsProps) {
  const near = known.filter((entry) => entry.share > 0).slice(0, NEAR);
  const chosen = known.find((entry) => entry.id === symptom);
  const first = chosen && !near.includes(chosen) ? [chosen, ...near] : near;
  const rest = known.filter((entry) => !first.includes(entry));
  return (
    <nav aria-label="Symptoms" className="mt-3">
      <div className="flex flex-wrap items-end gap-2">
        <TextField
          label="The complaint in other words"
          value={typed}
          placeholder="freezes after a while"
          onChange={(event) => onType(event.target.value)}
        />
        {first.map((entry) => (
          <SymptomButton key={entry.id} entry={entry} chosen={entry.id === symptom} onChoose={onChoose} />
        ))}
      </div>
      <details className="mt-2" open={first.length === 0}>
        <summary>
          {first.length === 0 ? "Every symptom that is known" : `${plural(rest.length, "other symptom")}`}
        </summary>
        <div className="mt-1 flex flex-wrap gap-2">
          {rest.map((entry) => (
            <SymptomButton key={entry.id} entry={entry} chosen={false} onChoose={onChoose} />
          ))}
        </div>
      </details>
    </nav>
  );
}

interface SymptomProps {
  entry: Schemas["SymptomView"];
  chosen: boolean;
  onChoose: (id: string) => void;
}

function SymptomButton({ entry, chosen, onChoose }: SymptomProps) {
  return (
    <button
      type="button"
      aria-pressed={chosen}
      className={`rounded-[3px] border px-3 py-1.5 ${chosen ? "border-ink bg-pick font-semibold" : "border-rule bg-leaf"}`}
      onClick={() => onChoose(entry.id)}
    >
      {entry.words}
    </button>
  );
}

function Table({ job, found, may }: { job: Job; found: Diagnosis; may: boolean }) {
  const bench = useBench(job.id);
  const [reaching, setReaching] = useState(false);
  const told = found.results.some((result) => result.told);
  const leading = found.hypotheses[0];
  return (
    <div className="mt-4 grid grid-cols-2 gap-6 max-[1000px]:grid-cols-1">
      <TakenNotice bench={bench} />
      <Refused bench={bench} />
      <section aria-label="Hypotheses">
        <h2 className="flex items-baseline justify-between border-b border-ink text-[1.2rem]">
          What may lie behind it
          <span className="font-sans text-[0.95rem] font-normal text-soft">
            {found.old ? "older than most of its model" : "not old for its model"}
            {found.events.length > 0 && `, after a ${found.events.join(" and a ")}`}
            {found.returns.length > 0 && `, back from ${found.returns.map((one) => `job ${one}`).join(" and ")}`}
          </span>
        </h2>
        <table className="w-full">
          <thead className="text-soft">
            <tr>
              <th scope="col">Cause</th>
              <th scope="col" className="w-[40%]">
                How likely
              </th>
              <th scope="col" className="pl-3 text-right">
                now
              </th>
              <th scope="col" className="pl-3 text-right">
                before
              </th>
            </tr>
          </thead>
          <tbody>
            {found.hypotheses.map((row) => (
              <tr key={row.id} className="border-b border-dotted border-rule align-top" title={row.basis}>
                <td className="py-1 pr-2">
                  {row.words}
                  <span className="block text-[0.9rem] text-soft">{row.basis}</span>
                </td>
                <td className="pt-2 pr-2">
                  <Bar row={row} />
                </td>
                <td className="py-1 pl-3 text-right font-semibold whitespace-nowrap">{percent(row.posterior)}</td>
                <td className="py-1 pl-3 text-right whitespace-nowrap text-soft">{percent(row.prior)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {may && (
          <div className="mt-3 flex flex-wrap items-center gap-3">
            <Button look="main" onClick={() => setReaching(true)}>
              {job.targets.length ? "Reach another part" : "Choose what to reach"}
            </Button>
            {leading && (
              <p className="text-soft">
                {told
                  ? `Most likely now: ${leading.words.toLowerCase()}.`
                  : "No result has told the causes apart yet: none is confirmed by what was done."}
              </p>
            )}
          </div>
        )}
        {reaching && (
          <Sheet open onClose={() => setReaching(false)} title="What to reach" wide>
            <MoreTargets job={job} bench={bench} onClose={() => setReaching(false)} />
          </Sheet>
        )}
      </section>
      <section aria-label="Tests">
        <h2 className="border-b border-ink text-[1.2rem]">Next test, best first</h2>
        <ol>
          {found.tests.map((test, place) => (
            <TestRow
              key={test.id}
              test={test}
              symptom={found.symptom.id}
              first={place === 0}
              bench={may ? bench : null}
            />
          ))}
        </ol>
        {found.tests.length === 0 && <p className="text-soft">Every test is made.</p>}
        <Results found={found} bench={may ? bench : null} />
        {may && job.swaps.every((swap) => !(swap.position in job.swapped)) && (
          <div className="mt-4">
            <ReportPane job={job} bench={bench} touch={false} />
            {job.form !== "mini_pc" && job.form !== "all_in_one" && <PackPane job={job} bench={bench} />}
          </div>
        )}
      </section>
    </div>
  );
}

/** Now as a bar, before as a tick on it. */
function Bar({ row }: { row: Diagnosis["hypotheses"][number] }) {
  return (
    <span className="relative block h-3 bg-pick" aria-hidden>
      <span
        className="absolute inset-y-0 left-0"
        style={{ width: `${row.posterior * 100}%`, background: kindColour(row.kind ?? "other") }}
      />
      <span className="absolute -inset-y-0.5 w-[2px] bg-ink" style={{ left: `${row.prior * 100}%` }} />
    </span>
  );
}

interface TestProps {
  test: Diagnosis["tests"][number];
  symptom: string;
  first: boolean;
  bench: Bench | null;
}

function TestRow({ test, symptom, first, bench }: TestProps) {
  const idle = test.bits === 0;
  return (
    <li className={`border-b border-dotted border-rule py-2 ${first && !idle ? "bg-pick px-2" : ""}`}>
      {test.caution && <p className="border-l-4 border-thin pl-2 font-semibold text-thin">{test.caution}</p>}
      <p className="flex items-baseline justify-between gap-3">
        <strong className={idle ? "text-soft" : ""}>{test.words}</strong>
        <span className="whitespace-nowrap text-soft">{test.minutes} min</span>
      </p>
      <p className="text-[0.93rem] text-soft">
        {test.tells && <span className="text-ink">{test.tells}; </span>}
        {test.reason}
        {test.opens && ", opens the machine"}
      </p>
      {bench && (
        <div className="mt-1 flex flex-wrap gap-2">
          {test.outcomes.map((outcome) => (
            <Button key={outcome} onClick={() => void bench.write("test", { symptom, test: test.id, outcome })}>
              {outcome}
            </Button>
          ))}
        </div>
      )}
    </li>
  );
}

function Results({ found, bench }: { found: Diagnosis; bench: Bench | null }) {
  if (found.results.length === 0) return null;
  return (
    <>
      <h2 className="mt-4 border-b border-ink text-[1.2rem]">Results</h2>
      {found.against.map((words) => (
        <p key={words} role="alert" className="mt-1 border-l-4 border-short pl-2 font-semibold text-short">
          {words}
        </p>
      ))}
      <ol>
        {found.results.map((result, place) => (
          <li key={place} className="border-b border-dotted border-rule py-1">
            {result.words}: <strong>{result.outcome}</strong>
            {result.job !== null && <span className="text-soft"> in job {result.job}</span>}
            {bench && result.job === null && (
              <button
                type="button"
                className="ml-3 min-h-[25px] text-accent underline"
                aria-label={`take it back: ${result.words}: ${result.outcome}`}
                onClick={() =>
                  void bench.write("untest", { symptom: found.symptom.id, test: result.test, outcome: result.outcome })
                }
              >
                take it back
              </button>
            )}
            {!result.told && !found.against.some((words) => words.startsWith(`${result.words}: "`)) && (
              <span className="block font-semibold text-thin">
                Expected whatever the cause: it changed nothing and confirms none.
              </span>
            )}
          </li>
        ))}
      </ol>
    </>
  );
}
