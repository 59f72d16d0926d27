import { useState } from "react";
import { Link, useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { moment, plural } from "@/lib/format";
import { ROLE_NAMES } from "@/lib/words";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { Waiting } from "@/ui/Notice";
import { PersonMenu } from "./PersonMenu";
import { LinkSheet, PersonSheet } from "./PersonSheets";
import { type Person, type PersonLink, usePeople } from "./people.queries";

/** Who may sign in, as what, and where they work. */
export default function PeoplePage() {
  const session = useOutletContext<Schemas["SessionState"]>();
  const found = usePeople();
  const [editing, setEditing] = useState<Person | "new" | null>(null);
  const [link, setLink] = useState<PersonLink | null>(null);
  if (found.isError) return <FailedToRead title="Not to be seen" query={found} />;
  if (!found.data) return <Waiting what="Looking who works here" />;
  const here = found.data.filter((one) => one.active);
  return (
    <div className="min-h-0 flex-1 overflow-auto p-4">
      <header className="flex flex-wrap items-center gap-x-4">
        <h1 className="text-[1.75rem]">People</h1>
        <p className="text-soft">
          {plural(here.length, "person", "people")} may sign in. Nobody sees anybody's password; each chooses it by a
          link that works once.
        </p>
        <p className="ml-auto flex items-center gap-3">
          <Link className="text-accent underline" to="/company/audit">
            What people did
          </Link>
          <Button look="main" onClick={() => setEditing("new")}>
            Add a person
          </Button>
        </p>
      </header>
      <table className="mt-3 w-full max-w-[1100px]">
        <thead>
          <tr className="border-b border-ink text-left">
            {["Name", "Login", "May", "Works at", "Here last", ""].map((name) => (
              <th key={name} scope="col" className="py-1 pr-3">
                {name || <span className="sr-only">Act</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {found.data.map((one) => (
            <tr
              key={one.id}
              className={`border-b border-dotted border-rule align-baseline ${one.active ? "" : "text-soft"}`}
            >
              <th scope="row" className="py-1.5 pr-3 font-semibold">
                {one.name}
                {one.own && <span className="ml-2 font-normal text-soft">you</span>}
              </th>
              <td className="code pr-3">{one.login}</td>
              <td className="pr-3">{one.active ? ROLE_NAMES[one.role] : "sign in no more"}</td>
              <td className="pr-3">
                {one.sites.length ? one.sites.join(", ") : one.role === "technician" ? "every site" : ""}
              </td>
              <td className="pr-3">
                {one.seen_at ? moment(one.seen_at) : "never"}
                {one.link_until && <span className="block text-thin">link open until {moment(one.link_until)}</span>}
              </td>
              <td className="text-right">
                <PersonMenu person={one} onEdit={() => setEditing(one)} onLink={setLink} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {editing && (
        <PersonSheet
          person={editing === "new" ? null : editing}
          sites={session.sites}
          onClose={() => setEditing(null)}
          onLink={setLink}
        />
      )}
      {link && (
        <LinkSheet
          link={link}
          name={found.data.find((one) => one.id === link.person_id)?.name ?? ""}
          onClose={() => setLink(null)}
        />
      )}
    </div>
  );
}
