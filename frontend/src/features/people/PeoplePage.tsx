import { useState } from "react";
import { Link, useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { moment, plural } from "@/lib/format";
import { ROLE_NAMES } from "@/lib/words";
import { SettingsSheet } from "@/shared/SettingsSheet";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { Waiting } from "@/ui/Notice";
import { PersonMenu } from "./PersonMenu";
import { LinkSheet, PersonSheet } from "./PersonSheets";
import { type Person, type PersonLink, useLimits, usePeople } from "./people.queries";

/** Who may sign in, as what, and where they work. */
export default function PeoplePage() {
  const session = useOutletContext<Schemas["SessionState"]>();
  const found = usePeople();
  const [editing, setEditing] = useState<Person | "new" | null>(null);
  const [limits, setLimits] = useState(false);
  const [link, setLink] = useState<PersonLink | null>(null);
  if (found.isError) return <FailedToRead title="Not to be seen" query={found} />;
  if (!found.data) return <Waiting what="Looking who works here" />;
  const { people, provider } = found.data;
  const here = people.filter((one) => one.active);
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
          <Button onClick={() => setLimits(true)}>When sign-ins end</Button>
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
          {people.map((one) => (
            <Row key={one.id} person={one} provider={provider} onEdit={() => setEditing(one)} onLink={setLink} />
          ))}
        </tbody>
      </table>
      {limits && <Limits onClose={() => setLimits(false)} />}
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
          name={people.find((one) => one.id === link.person_id)?.name ?? ""}
          onClose={() => setLink(null)}
        />
      )}
    </div>
  );
}

function Limits({ onClose }: { onClose: () => void }) {
  return (
    <SettingsSheet
      title="When sign-ins end"
      about="They hold at once, for those that are open too. A page left open counts as nobody's use after a minute."
      found={useLimits()}
      onClose={onClose}
    />
  );
}

interface RowProps {
  person: Person;
  provider: string | null;
  onEdit: () => void;
  onLink: (link: PersonLink) => void;
}

function Row({ person: one, provider, onEdit, onLink }: RowProps) {
  return (
    <tr className={`border-b border-dotted border-rule align-baseline ${one.active ? "" : "text-soft"}`}>
      <th scope="row" className="py-1.5 pr-3 font-semibold">
        {one.name}
        {one.own && <span className="ml-2 font-normal text-soft">you</span>}
      </th>
      <td className="pr-3">
        <span className="code">{one.login}</span>
        {provider && one.active && one.through !== "password" && (
          <span className="block text-soft">
            {one.through === "provider" ? `with ${provider}` : `may come with ${provider}`}
          </span>
        )}
      </td>
      <td className="pr-3">{one.active ? ROLE_NAMES[one.role] : "sign in no more"}</td>
      <td className="pr-3">
        {one.sites.length ? one.sites.join(", ") : one.role === "technician" ? "every site" : ""}
      </td>
      <td className="pr-3">
        {one.seen_at ? moment(one.seen_at) : "never"}
        {one.link_until && <span className="block text-thin">link open until {moment(one.link_until)}</span>}
      </td>
      <td className="text-right">
        <PersonMenu person={one} provider={provider} onEdit={onEdit} onLink={onLink} />
      </td>
    </tr>
  );
}
