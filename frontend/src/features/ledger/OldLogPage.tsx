import { useRef, useState } from "react";
import { isProblem, type Schemas } from "@/api/client";
import { figure, plural } from "@/lib/format";
import { FINDING_NAMES, FINDINGS } from "@/lib/words";
import { Button } from "@/ui/Button";
import { SelectField } from "@/ui/Field";
import { type Meaning, type OldLog, useOldLog } from "./ledger.queries";

/** An old log from a spreadsheet: columns mapped, words explained, faults by row, then all of it or nothing. */
export function OldLogPage({ session }: { session: Schemas["SessionState"] }) {
  const [file, setFile] = useState<File | null>(null);
  const [meaning, setMeaning] = useState<Meaning>({ columns: null, findings: {}, day_first: true, write: false });
  const input = useRef<HTMLInputElement>(null);
  const read = useOldLog();
  const problem = isProblem(read.error) ? read.error : null;
  if (session.user?.role !== "lead") {
    return (
      <p className="p-5 text-soft">An old log is imported by a lead; you are signed in as {session.user?.role}.</p>
    );
  }
  const send = (chosen: File, wanted: Meaning): void => {
    setMeaning({ ...wanted, write: false });
    read.mutate({ file: chosen, meaning: wanted });
  };
  const log = read.data;
  return (
    <section className="p-4">
      <h2 className="text-[1.4rem]">Import an old log</h2>
      <p className="text-soft">
        CSV in UTF-8 or XLSX, a header row, one incident a row, for machines that are already here. Nothing is written
        before every row is understood; shelves are not touched.
      </p>
      <div className="mt-3 flex items-center gap-3">
        <input
          ref={input}
          type="file"
          accept=".csv,.xlsx"
          aria-label="Old log, CSV or XLSX"
          className="sr-only"
          tabIndex={-1}
          onChange={(event) => {
            const chosen = event.target.files?.[0] ?? null;
            setFile(chosen);
            if (chosen) send(chosen, { columns: null, findings: {}, day_first: true, write: false });
          }}
        />
        <Button look="main" onClick={() => input.current?.click()}>
          {file ? "Choose another file" : "Choose a file"}
        </Button>
        {file && <span className="code">{file.name}</span>}
      </div>
      {problem && (
        <p role="alert" className="mt-3 border-l-4 border-short bg-pick p-3 font-semibold text-short">
          {problem.detail}
        </p>
      )}
      {log && file && (
        <Reading log={log} meaning={meaning} busy={read.isPending} onRead={(wanted) => send(file, wanted)} />
      )}
    </section>
  );
}

interface ReadingProps {
  log: OldLog;
  meaning: Meaning;
  busy: boolean;
  onRead: (meaning: Meaning) => void;
}

function Reading({ log, meaning, busy, onRead }: ReadingProps) {
  if (log.written > 0) {
    return (
      <p role="status" className="mt-4 text-[1.15rem] font-semibold text-covered">
        {plural(log.written, "incident")} recorded.
      </p>
    );
  }
  const current: Meaning = { ...meaning, columns: log.columns };
  const sound = log.faults_total === 0;
  return (
    <div className="mt-4 grid gap-4">
      <Columns log={log} meaning={current} onRead={onRead} />
      <Words log={log} meaning={current} onRead={onRead} />
      <p role="status" className="border-y border-rule py-2 text-[1.1rem]">
        <strong>
          {figure(log.understood)} of {plural(log.rows, "row")} understood
        </strong>
        {!sound && `, ${plural(log.faults_total, "fault")}: nothing is written while there is one.`}
      </p>
      {sound && (
        <Button
          look="main"
          className="justify-self-start"
          disabled={busy}
          onClick={() => onRead({ ...current, write: true })}
        >
          Record all {figure(log.rows)}
        </Button>
      )}
      {!sound && <Faults log={log} />}
    </div>
  );
}

type PartProps = Omit<ReadingProps, "busy">;

function Columns({ log, meaning, onRead }: PartProps) {
  const first = log.sample[0] ?? {};
  return (
    <section aria-label="Columns">
      <h3 className="border-b border-ink text-[1.1rem]">Which column is what</h3>
      <div className="mt-2 grid grid-cols-2 gap-x-5 gap-y-2">
        {log.fields.map((field) => {
          const chosen = log.columns[field.name] ?? "";
          return (
            <SelectField
              key={field.name}
              label={`${field.about}${field.required ? "" : " (may be left out)"}`}
              hint={chosen && first[chosen] ? `first row: ${first[chosen]}` : undefined}
              value={chosen}
              onChange={(event) =>
                onRead({ ...meaning, columns: { ...log.columns, [field.name]: event.target.value } })
              }
            >
              <option value="">no column</option>
              {log.header.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </SelectField>
          );
        })}
      </div>
      <label className="mt-2 flex items-baseline gap-1.5">
        <input
          type="checkbox"
          checked={meaning.day_first}
          onChange={() => onRead({ ...meaning, day_first: !meaning.day_first })}
        />
        4.12. and 4/12 are the fourth of December
      </label>
    </section>
  );
}

/** Words for findings that are not understood are asked for, once for all rows. */
function Words({ log, meaning, onRead }: PartProps) {
  const words = Object.keys({ ...meaning.findings, ...log.unexplained });
  if (words.length === 0) return null;
  return (
    <section aria-label="Findings">
      <h3 className="border-b border-ink text-[1.1rem]">What these findings mean</h3>
      <div className="mt-2 grid grid-cols-3 gap-3">
        {words.map((word) => (
          <SelectField
            key={word}
            label={`“${word}”${log.unexplained[word] ? `, ${plural(log.unexplained[word], "row")}` : ""}`}
            value={meaning.findings[word] ?? ""}
            onChange={(event) => onRead({ ...meaning, findings: { ...meaning.findings, [word]: event.target.value } })}
          >
            <option value="">choose</option>
            {FINDINGS.map((name) => (
              <option key={name} value={name}>
                {FINDING_NAMES[name]}
              </option>
            ))}
          </SelectField>
        ))}
      </div>
    </section>
  );
}

function Faults({ log }: { log: OldLog }) {
  return (
    <table className="w-full">
      <thead>
        <tr className="border-b border-ink">
          <th scope="col" className="pr-3 text-right">
            Line
          </th>
          <th scope="col" className="pr-3">
            About
          </th>
          <th scope="col">What is wrong</th>
        </tr>
      </thead>
      <tbody>
        {log.faults.map((fault, place) => (
          <tr key={place} className="border-b border-dotted border-rule align-top">
            <td className="pr-3 text-right">{fault.line}</td>
            <td className="pr-3 whitespace-nowrap">{fault.field.replaceAll("_", " ")}</td>
            <td>{fault.message}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
