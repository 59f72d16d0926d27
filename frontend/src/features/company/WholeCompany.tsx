import { useState } from "react";
import { isProblem } from "@/api/client";
import { figure, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { useReadCompany } from "./company.queries";

/** Everything on record as open files, written for anybody and read into an empty company. */
export function WholeCompany({ empty }: { empty: boolean }) {
  const read = useReadCompany();
  return (
    <section className="mt-6 max-w-[900px]" aria-label="The whole company as files">
      <h2 className="border-b border-ink pb-0.5 font-sans text-[1rem]">The whole company as files</h2>
      <p className="mt-1 max-w-[75ch]">
        Everything on record in one zip, a table of comma-separated values each: machines, parts, the log with its
        corrections, orders, counts, model pages, settings. An empty company reads it back, the same to the last digit.
        Passwords are not in it: who is new there cannot sign in until a lead lets them.
      </p>
      <p className="mt-1">
        <a className="text-accent underline" href="/api/v1/company/archive" download>
          Write the whole company
        </a>
      </p>
      {empty && <ReadCompany read={read} />}
      {read.data && (
        <p role="status" className="mt-2">
          Read: {plural(read.data.machines, "machine")}, {plural(read.data.parts, "part")},{" "}
          {plural(read.data.incidents, "incident")}; {figure(read.data.rows)} rows in all.
        </p>
      )}
    </section>
  );
}

function ReadCompany({ read }: { read: ReturnType<typeof useReadCompany> }) {
  const [file, setFile] = useState<File | null>(null);
  return (
    <form
      className="mt-3 flex flex-wrap items-center gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (file) read.mutate(file);
      }}
    >
      <input
        type="file"
        aria-label="Zip of a whole company"
        accept=".zip"
        className="border border-soft bg-leaf file:mr-2 file:border-0 file:border-r file:border-solid file:border-soft file:bg-pick file:px-3 file:py-1.5 file:font-semibold file:text-ink"
        onChange={(event) => {
          setFile(event.target.files?.[0] ?? null);
          read.reset();
        }}
      />
      <Button type="submit" disabled={!file || read.isPending}>
        {read.isPending ? "Reading" : "Read it into this empty company"}
      </Button>
      {read.isError && (
        <p role="alert" className="basis-full font-semibold text-short">
          {(isProblem(read.error) && read.error.faults[0]?.message) || read.error.message}
        </p>
      )}
    </form>
  );
}
