import { useRef, useState } from "react";
import { Link, useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { figure, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { Failed, Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { useFormats, useSendFiles } from "./imports.queries";

type Report = Schemas["ImportReportView"];

function Preview({ report }: { report: Report }) {
  return (
    <section className="mt-4" aria-live="polite">
      <h2 className="text-[1.25rem]">
        {report.written
          ? "Imported"
          : report.faults_total === 0
            ? "Nothing is wrong: this can be imported"
            : `${plural(report.faults_total, "fault")}; nothing was written`}
      </h2>
      <ul className="mt-1">
        {report.files.map((file) => (
          <li key={file.file}>
            <span className="code">{file.file}</span>: {plural(file.rows, "row")}
          </li>
        ))}
      </ul>
      {report.faults.length > 0 && (
        <table className="mt-3 w-full">
          <thead>
            <tr className="border-b border-ink">
              <th scope="col">File</th>
              <th scope="col" className="pr-3 text-right">
                Line
              </th>
              <th scope="col">Column</th>
              <th scope="col">What is wrong</th>
            </tr>
          </thead>
          <tbody>
            {report.faults.map((fault, place) => (
              <tr key={place} className="border-b border-dotted border-rule align-top">
                <td className="code pr-3">{fault.file}</td>
                <td className="pr-3 text-right">{fault.line > 0 ? figure(fault.line) : "–"}</td>
                <td className="code pr-3">{fault.column}</td>
                <td>{fault.message}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {report.faults_total > report.faults.length && (
        <p className="mt-2 text-soft">The first {figure(report.faults.length)} are shown.</p>
      )}
    </section>
  );
}

function Formats() {
  const formats = useFormats();
  if (formats.isError) return <Failed title="The formats cannot be shown" detail={formats.error.message} />;
  if (!formats.data) return <Waiting what="Reading the formats" />;
  return (
    <div className="p-4">
      <h2 className="text-[1.25rem]">The files</h2>
      <p className="text-soft">
        CSV in UTF-8 with a header row, columns in any order, extra columns ignored. At most{" "}
        {figure(formats.data.most_rows)} rows a file here; <span className="code">bin/almanac import</span> takes any
        number.
      </p>
      {formats.data.files.map((file) => (
        <details key={file.name} className="border-b border-rule py-1">
          <summary>
            <span className="code font-semibold">{file.name}.csv</span> <span className="text-soft">{file.about}</span>
          </summary>
          <table className="my-1 w-full text-[0.93rem]">
            <tbody>
              {file.columns.map((column) => (
                <tr key={column.name} className="border-b border-dotted border-rule align-top">
                  <th scope="row" className="code pr-2 font-normal">
                    {column.name}
                    {column.required && <span title="required"> *</span>}
                  </th>
                  <td className="pr-2">{column.help}</td>
                  <td className="code text-soft">{column.example}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <a className="text-accent underline" href={`/api/v1/imports/templates/${file.name}.csv`} download>
            Template
          </a>
        </details>
      ))}
      <p className="mt-2 text-soft">* required</p>
    </div>
  );
}

/** Own data: choose files, look at every fault, then commit all of it or nothing. */
export default function ImportPage() {
  const session = useOutletContext<Schemas["SessionState"]>();
  const [files, setFiles] = useState<File[]>([]);
  const picker = useRef<HTMLInputElement>(null);
  const send = useSendFiles();
  const lead = session.user?.role === "lead";
  const ready = send.data && send.data.faults_total === 0 && !send.data.written;
  return (
    <Spread
      name="import"
      leftLabel="Import"
      rightLabel="File formats"
      share={58}
      left={
        <div className="p-4">
          <h1 className="text-[1.75rem]">Import own data</h1>
          <p className="max-w-[60ch] text-soft">
            Sites, parts, models, assets, tenures, incidents, readings and stock, from CSV files. An import adds; it
            never overwrites.{" "}
            <Link className="text-accent underline" to="/import/lists">
              Lists as you have them
            </Link>
            , of machines, parts, shelves, purchases, tickets or readings, are held against the record, month after
            month.
          </p>
          {lead ? (
            <>
              <div className="mt-4 flex flex-wrap items-center gap-3">
                <label className="font-semibold">
                  Files{" "}
                  <input
                    ref={picker}
                    type="file"
                    multiple
                    accept=".csv,text/csv"
                    className="border border-soft bg-leaf font-normal file:mr-2 file:border-0 file:border-r file:border-solid file:border-soft file:bg-pick file:px-3 file:py-1.5 file:font-semibold file:text-ink"
                    onChange={(event) => {
                      setFiles([...(event.target.files ?? [])]);
                      send.reset();
                    }}
                  />
                </label>
                <Button
                  look={ready ? "plain" : "main"}
                  disabled={files.length === 0 || send.isPending}
                  onClick={() => send.mutate({ files, write: false })}
                >
                  Check
                </Button>
                {ready && (
                  <Button look="main" disabled={send.isPending} onClick={() => send.mutate({ files, write: true })}>
                    Import all
                  </Button>
                )}
              </div>
              {send.isPending && <Waiting what="Reading the files" />}
              {send.isError && <Failed title="The files were not taken" detail={send.error.message} />}
              {send.data && <Preview report={send.data} />}
            </>
          ) : (
            <p className="mt-4 font-semibold text-thin">Importing needs the role lead.</p>
          )}
        </div>
      }
      right={<Formats />}
    />
  );
}
