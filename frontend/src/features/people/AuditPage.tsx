import { useState } from "react";
import { Link } from "react-router";
import { moment } from "@/lib/format";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { SelectField, TextField } from "@/ui/Field";
import { Nothing, Waiting } from "@/ui/Notice";
import { type AuditWish, useAudit, wished } from "./people.queries";

const NOBODY: Record<string, string> = {
  sign_in_failed: "somebody",
  backup_made: "the worker",
  backup_failed: "the worker",
};
const ALL: AuditWish = { group: "", words: "", since: "", until: "" };

/** What people did to who may do what, and to what is decided by: the latest first, narrowed down, or as a file. */
export default function AuditPage() {
  const [wish, setWish] = useState(ALL);
  const found = useAudit(wish);
  if (found.isError) return <FailedToRead title="Not to be seen" query={found} />;
  if (!found.data) return <Waiting what="Reading what people did" />;
  const rows = found.data.pages.flatMap((page) => page.rows);
  const groups = found.data.pages[0]?.groups ?? [];
  const file = `/api/v1/audit.csv?${new URLSearchParams(wished(wish))}`;
  return (
    <div className="min-h-0 flex-1 overflow-auto p-4">
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-[1.75rem]">What people did</h1>
        <p className="text-soft">Kept as it happened: nothing of it can be changed or taken away.</p>
        <p className="ml-auto flex gap-3">
          <Link className="text-accent underline" to="/company/people">
            People
          </Link>
          <a className="text-accent underline" href={file}>
            As a file (CSV)
          </a>
        </p>
      </header>
      <Filters wish={wish} groups={groups} onChange={setWish} />
      {rows.length === 0 ? (
        <Nothing>Nothing like that is on record.</Nothing>
      ) : (
        <table className="mt-3 w-full">
          <thead>
            <tr className="border-b border-ink text-left">
              {["When", "Who", "What", "Of", "How", "From"].map((name) => (
                <th key={name} scope="col" className="py-1 pr-3">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.key} className="border-b border-dotted border-rule align-baseline">
                <td className="py-1 pr-3 whitespace-nowrap" title={row.at}>
                  {moment(row.at)}
                </td>
                <th scope="row" className="pr-3 font-semibold whitespace-nowrap">
                  {row.name ?? NOBODY[row.event] ?? "set up"}
                </th>
                <td className={`pr-3 ${row.event.endsWith("_failed") ? "text-short" : ""}`}>{row.did}</td>
                <td className="pr-3 break-words">{row.subject}</td>
                <td className="pr-3 break-words">{row.words}</td>
                <td className="code whitespace-nowrap text-soft">{row.address}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {found.hasNextPage && (
        <p className="mt-3">
          <Button disabled={found.isFetchingNextPage} onClick={() => void found.fetchNextPage()}>
            {found.isFetchingNextPage ? "Reading…" : "Earlier"}
          </Button>
        </p>
      )}
    </div>
  );
}

interface FiltersProps {
  wish: AuditWish;
  groups: { key: string; name: string }[];
  onChange: (wish: AuditWish) => void;
}

function Filters({ wish, groups, onChange }: FiltersProps) {
  return (
    <search className="mt-3 grid max-w-[900px] grid-cols-[repeat(auto-fit,minmax(160px,1fr))] gap-3">
      <SelectField
        label="What"
        value={wish.group}
        onChange={(event) => onChange({ ...wish, group: event.target.value })}
      >
        <option value="">everything</option>
        {groups.map((group) => (
          <option key={group.key} value={group.key}>
            {group.name}
          </option>
        ))}
      </SelectField>
      <TextField
        label="Words in it"
        value={wish.words}
        onChange={(event) => onChange({ ...wish, words: event.target.value })}
      />
      <TextField
        label="From"
        type="date"
        value={wish.since}
        onChange={(event) => onChange({ ...wish, since: event.target.value })}
      />
      <TextField
        label="To"
        type="date"
        value={wish.until}
        onChange={(event) => onChange({ ...wish, until: event.target.value })}
      />
    </search>
  );
}
