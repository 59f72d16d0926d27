import { useState } from "react";
import { isProblem } from "@/api/client";
import { plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { SelectField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { type Tally, useTakeFile } from "./stores.queries";

const OUT: [string, string][] = [
  ["moves", "Every move"],
  ["balances", "What lies where"],
  ["orders", "Order lines"],
  ["counts", "Counts"],
];
const IN = {
  counts: "counts: site, part_number, counted; place and reason where they are wanted",
  acts: "acts: site, part_number, act, quantity; reason, made_on",
  orders: "orders to draft: part_number, quantity",
} as const;
type Read = keyof typeof IN;

/** The stores on paper and as files: labels, packing lists, count sheets, tables out, and counts, acts and orders in. */
export function FilesSheet({ tally, may, onClose }: { tally: Tally; may: boolean; onClose: () => void }) {
  const [site, setSite] = useState(tally.sites[0]?.code ?? "");
  const packed = tally.transfers.some((transfer) => transfer.to_site === site);
  const link = (words: string, address: string) => (
    <a className="inline-block min-h-[24px] text-accent underline" href={address} target="_blank" rel="noreferrer">
      {words}
    </a>
  );
  const query = `?site=${encodeURIComponent(site)}`;
  return (
    <Sheet
      open
      onClose={onClose}
      title="Paper and files"
      about="Labels and lists to print, tables to take away, files to read in."
    >
      <div className="grid gap-5">
        <section className="grid gap-2">
          <SelectField label="Of" value={site} onChange={(event) => setSite(event.target.value)}>
            {tally.sites.map((one) => (
              <option key={one.code} value={one.code}>
                {one.name}
              </option>
            ))}
          </SelectField>
          <p className="flex flex-wrap gap-x-4">
            {link("Shelf labels", `/api/v1/stores/labels.pdf${query}`)}
            {packed && link("Packing list", `/api/v1/stores/packing-list.pdf${query}`)}
            {link("Count sheet, blind", `/api/v1/stores/count-sheet.pdf${query}`)}
            {link("with booked figures", `/api/v1/stores/count-sheet.pdf${query}&booked=true`)}
            {link("as CSV to fill in", `/api/v1/stores/count-sheet.csv${query}`)}
          </p>
        </section>
        <table className="w-full">
          <caption className="border-b border-ink pb-0.5 text-left font-semibold">Tables of all sites</caption>
          <tbody>
            <tr className="border-b border-dotted border-rule">
              <td className="py-0.5">Shelves against their levels</td>
              <td className="text-right">
                <a
                  className="ml-3 inline-block min-h-[24px] text-accent underline"
                  href="/api/v1/stores/tally.csv"
                  aria-label="Shelves against their levels as CSV"
                  download
                >
                  CSV
                </a>
              </td>
            </tr>
            {OUT.map(([name, words]) => (
              <tr key={name} className="border-b border-dotted border-rule">
                <td className="py-0.5">{words}</td>
                <td className="text-right">
                  {["csv", "xlsx"].map((kind) => (
                    <a
                      key={kind}
                      className="ml-3 inline-block min-h-[24px] text-accent underline"
                      href={`/api/v1/stores/files/${name}.${kind}`}
                      aria-label={`${words} as ${kind.toUpperCase()}`}
                      download
                    >
                      {kind.toUpperCase()}
                    </a>
                  ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {may && <TakeFile />}
      </div>
    </Sheet>
  );
}

function TakeFile() {
  const [name, setName] = useState<Read>("counts");
  const [file, setFile] = useState<File | null>(null);
  const take = useTakeFile();
  const problem = isProblem(take.error) ? take.error : null;
  return (
    <form
      className="grid gap-3"
      aria-label="Read a file in"
      onSubmit={(event) => {
        event.preventDefault();
        if (file) take.mutate({ name, file });
      }}
    >
      <SelectField
        label="Read in"
        value={name}
        hint="CSV or XLSX with these columns. All of it is carried out, or nothing."
        onChange={(event) => setName(event.target.value as Read)}
      >
        {Object.entries(IN).map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </SelectField>
      <input
        type="file"
        aria-label="File to read in"
        accept=".csv,.xlsx"
        onChange={(event) => {
          setFile(event.target.files?.[0] ?? null);
          take.reset();
        }}
      />
      {problem && (
        <div role="alert" className="max-h-[22vh] overflow-y-auto font-semibold text-short">
          <ul>
            {problem.faults.length === 0 && <li>{problem.detail}</li>}
            {problem.faults.slice(0, 50).map((fault) => (
              <li key={fault.message}>{fault.message}</li>
            ))}
          </ul>
        </div>
      )}
      {take.data && (
        <p role="status" className="font-semibold">
          {plural(take.data.rows, "row")} carried out
          {take.data.waits > 0 ? `; ${plural(take.data.waits, "count")} wait for a lead` : ""}
          {take.data.drafts.length > 0 ? `; draft ${take.data.drafts.join(", ")}` : ""}.
        </p>
      )}
      <Button type="submit" className="justify-self-start" disabled={!file || take.isPending}>
        Carry it out
      </Button>
    </form>
  );
}
