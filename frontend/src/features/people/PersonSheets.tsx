import { useState } from "react";
import type { Schemas } from "@/api/client";
import { moment } from "@/lib/format";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { Button } from "@/ui/Button";
import { SelectField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { type Person, type PersonFields, type PersonLink, useAddPerson, useChangePerson } from "./people.queries";

const ROLES: { role: PersonFields["role"]; says: string }[] = [
  { role: "lead", says: "lead: decides, and may do everything" },
  { role: "technician", says: "technician: works at the bench and the shelves" },
  { role: "reader", says: "reader: looks" },
];

interface PersonSheetProps {
  person: Person | null;
  sites: Schemas["SiteName"][];
  onClose: () => void;
  onLink: (link: PersonLink) => void;
}

/** A person added, or described anew. */
export function PersonSheet({ person, sites, onClose, onLink }: PersonSheetProps) {
  const [login, setLogin] = useState("");
  const [fields, setFields] = useState<PersonFields>({
    name: person?.name ?? "",
    role: person?.role ?? "technician",
    sites: person?.sites ?? [],
  });
  const grouped = person?.through === "provider";
  const add = useAddPerson();
  const change = useChangePerson();
  const sent = { ...fields, sites: fields.role === "technician" ? (fields.sites ?? []) : [] };
  const send = (): void => {
    if (person) {
      change.mutate({ id: person.id, fields: sent }, { onSuccess: onClose });
      return;
    }
    add.mutate(
      { ...sent, login },
      {
        onSuccess: (link) => {
          onClose();
          onLink(link);
        },
      },
    );
  };
  return (
    <AskSheet
      title={person ? person.name : "Add a person"}
      about={
        person ? "What is changed holds from the next click on." : "They choose a password by a link you hand them."
      }
      label={person ? "Change it" : "Add"}
      sending={person ? change : add}
      fields={["login", "name", "role", "sites", "person"]}
      onSend={send}
      onClose={onClose}
    >
      {(problem) => (
        <>
          {!person && (
            <ValueField
              label="Login"
              hint="Small letters, no blanks; it stays."
              value={login}
              fault={problem?.at("login") ?? undefined}
              onValue={setLogin}
            />
          )}
          <ValueField
            label="Name"
            value={fields.name}
            fault={problem?.at("name") ?? undefined}
            onValue={(name) => setFields({ ...fields, name })}
          />
          {grouped && (
            <p className="text-soft">What they may do follows their groups at the provider, and is changed there.</p>
          )}
          {!grouped && (
            <SelectField
              label="May"
              value={fields.role}
              fault={problem?.at("role") ?? undefined}
              onChange={(event) =>
                setFields({ ...fields, role: ROLES.find((one) => one.role === event.target.value)?.role ?? "reader" })
              }
            >
              {ROLES.map(({ role, says }) => (
                <option key={role} value={role}>
                  {says}
                </option>
              ))}
            </SelectField>
          )}
          {!grouped && fields.role === "technician" && sites.length > 1 && (
            <Sites
              sites={sites}
              chosen={fields.sites ?? []}
              onChange={(chosen) => setFields({ ...fields, sites: chosen })}
            />
          )}
          {problem?.at("person") && <p className="font-semibold text-short">{problem.at("person")}</p>}
        </>
      )}
    </AskSheet>
  );
}

interface SitesProps {
  sites: Schemas["SiteName"][];
  chosen: string[];
  onChange: (chosen: string[]) => void;
}

function Sites({ sites, chosen, onChange }: SitesProps) {
  return (
    <fieldset>
      <legend className="text-[0.93em] font-semibold">Works at</legend>
      <p className="text-[0.88em] text-soft">
        {chosen.length === 0
          ? "Every site: none is picked."
          : "Shelves and machines of other sites are looked at only."}
      </p>
      <div className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
        {sites.map((site) => (
          <label key={site.code} className="flex min-h-[24px] items-center gap-1.5">
            <input
              type="checkbox"
              checked={chosen.includes(site.code)}
              onChange={(event) =>
                onChange(event.target.checked ? [...chosen, site.code] : chosen.filter((code) => code !== site.code))
              }
            />
            {site.name}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

/** A link, shown once: the server keeps no copy that opens. */
export function LinkSheet({ link, name, onClose }: { link: PersonLink; name: string; onClose: () => void }) {
  const [copied, setCopied] = useState(false);
  const address = `${window.location.origin}/welcome#${link.token}`;
  return (
    <Sheet
      open
      onClose={onClose}
      title={`A link for ${name}`}
      about={`Hand it over so that nobody else reads it. It works once, until ${moment(link.until)}; it is not shown again, and another one ends it.`}
    >
      <input
        aria-label="The link"
        readOnly
        className="code w-full border border-soft bg-pick px-2 py-1"
        value={address}
        onFocus={(event) => event.target.select()}
      />
      <div className="mt-3 flex gap-2">
        <Button look="main" onClick={() => void navigator.clipboard.writeText(address).then(() => setCopied(true))}>
          {copied ? "Copied" : "Copy it"}
        </Button>
        <Button onClick={onClose}>Done</Button>
      </div>
    </Sheet>
  );
}
