import { useState } from "react";
import type { Schemas } from "@/api/client";
import { day, moment } from "@/lib/format";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { SelectField } from "@/ui/Field";
import { Waiting } from "@/ui/Notice";
import { useEndToken, useMakeToken, useTokens } from "./fleet.queries";

type Scope = Schemas["TokenIn"]["scope"];
type Session = Schemas["SessionState"];

const SCOPES: Record<Scope, { name: string; about: string }> = {
  report: { name: "machines bring reports", about: "It opens that door alone: with it nothing can be read." },
  read: { name: "a program reads", about: "It reads what you may read, and writes nothing." },
  calendar: {
    name: "your calendar of what is due",
    about: "An address for a calendar program: whoever has it sees what is due for you.",
  },
};

/** Keys that programs show in place of a sign-in. */
export function Keys({ session }: { session: Session }) {
  const tokens = useTokens();
  const end = useEndToken();
  const [open, setOpen] = useState(false);
  const [made, setMade] = useState<Schemas["TokenMade"] | null>(null);
  if (tokens.isError) {
    return <FailedToRead title="Keys cannot be shown" query={tokens} />;
  }
  if (!tokens.data) return <Waiting what="Reading the keys" />;
  const keys = tokens.data.tokens;
  return (
    <div className="p-4">
      <h2 className="text-[1.5rem]">Keys for programs</h2>
      <p className="max-w-[60ch] text-soft">
        Shown once, kept as a hash, good for one purpose until a day.{" "}
        {session.user?.role === "lead" ? "A lead sees everybody's, and ends any of them." : "Yours alone are listed."}
      </p>
      <p className="mt-2">
        <Button onClick={() => setOpen(true)}>Make a key</Button>
      </p>
      {made && <Made made={made} onDone={() => setMade(null)} />}
      {keys.length === 0 && <p className="mt-3 text-soft">No key was made yet.</p>}
      <ul className="mt-3">
        {keys.map((key) => {
          const over = key.ended_at !== null || Date.parse(key.expires_at) < Date.now();
          return (
            <li
              key={key.id}
              className="flex items-baseline justify-between gap-3 border-b border-dotted border-rule py-1"
            >
              <span className={over ? "text-soft" : ""}>
                <strong>{key.name}</strong>, {SCOPES[key.scope].name}
                {key.mine ? "" : `, ${key.owner}`}
                <span className="block text-[0.9rem] text-soft">
                  {key.ended_at
                    ? `ended on ${day(key.ended_at)}`
                    : over
                      ? `over since ${day(key.expires_at)}`
                      : `until ${day(key.expires_at)}`}
                  , {key.last_used_at ? `used last ${moment(key.last_used_at)}` : "never used"}
                </span>
              </span>
              {!over && (
                <Button
                  look="quiet"
                  aria-label={`End ${key.name}`}
                  disabled={end.isPending}
                  onClick={() => end.mutate(key.id)}
                >
                  End it
                </Button>
              )}
            </li>
          );
        })}
      </ul>
      <p className="mt-4 text-soft">
        What can be asked is described in{" "}
        <a className="text-accent underline" href="/api/v1/openapi.json">
          openapi.json
        </a>
        .
      </p>
      {open && (
        <MakeSheet
          reader={session.user?.role === "reader"}
          onMade={(key) => {
            setMade(key);
            setOpen(false);
          }}
          onClose={() => setOpen(false)}
        />
      )}
    </div>
  );
}

function Made({ made, onDone }: { made: Schemas["TokenMade"]; onDone: () => void }) {
  return (
    <div role="status" className="mt-3 border-l-4 border-accent bg-pick p-3">
      <p className="font-semibold">Copy it now: it is shown this once.</p>
      <p className="code mt-1 break-all select-all">{made.address ?? made.token}</p>
      <p className="mt-2">
        <Button onClick={onDone}>I have it</Button>
      </p>
    </div>
  );
}

interface MakeSheetProps {
  reader: boolean;
  onMade: (made: Schemas["TokenMade"]) => void;
  onClose: () => void;
}

function MakeSheet({ reader, onMade, onClose }: MakeSheetProps) {
  const [name, setName] = useState("");
  const [scope, setScope] = useState<Scope>(reader ? "read" : "report");
  const [days, setDays] = useState("365");
  const make = useMakeToken();
  return (
    <AskSheet
      title="Make a key"
      about={SCOPES[scope].about}
      label="Make it"
      sending={make}
      fields={["name", "scope", "days"]}
      onSend={() => make.mutate({ name, scope, days: Number(days) }, { onSuccess: onMade })}
      onClose={onClose}
    >
      {(problem) => (
        <>
          <ValueField
            label="What it is for"
            value={name}
            placeholder="nightly reports"
            fault={problem?.at("name")}
            onValue={setName}
          />
          <SelectField
            label="With it"
            value={scope}
            fault={problem?.at("scope")}
            onChange={(event) => setScope(event.target.value as Scope)}
          >
            {(Object.keys(SCOPES) as Scope[])
              .filter((one) => !(reader && one === "report"))
              .map((one) => (
                <option key={one} value={one}>
                  {SCOPES[one].name}
                </option>
              ))}
          </SelectField>
          <ValueField
            label="Good for, days"
            type="number"
            min={1}
            max={400}
            value={days}
            fault={problem?.at("days")}
            onValue={setDays}
          />
        </>
      )}
    </AskSheet>
  );
}
