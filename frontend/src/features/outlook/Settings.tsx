import { type FormEvent, useState } from "react";
import { isProblem } from "@/api/client";
import { figure, percent } from "@/lib/format";
import { KIND_NAMES, KINDS } from "@/lib/words";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { type Outlook, useChangeSetting } from "./outlook.queries";
import { SchoolsSheet } from "./SchoolsSheet";

export interface SettingsProps {
  outlook: Outlook;
  kind: string;
  onKind: (kind: string) => void;
  mayChange: boolean;
}

type Key = "target" | "review_days";
type Changing = Key | "schools";

/** What the target counts. */
const MEASURES: Record<string, string> = {
  fill: "met at once",
  ready: "days with one there",
  cycle: "nobody refused",
  "least-cost": "least cost",
};

/** What the outlook is computed under: kinds shown, school, target and review period. */
export function Settings({ outlook, kind, onKind, mayChange }: SettingsProps) {
  const [changing, setChanging] = useState<Changing | null>(null);
  const site = outlook.site ? `?site=${encodeURIComponent(outlook.site)}` : "";
  const setting = (key: Changing, name: string, value: string) => (
    <span>
      {name}{" "}
      {mayChange ? (
        <button type="button" className="border-b border-ink font-semibold text-ink" onClick={() => setChanging(key)}>
          {value}
        </button>
      ) : (
        <strong className="text-ink">{value}</strong>
      )}
    </span>
  );
  return (
    <div className="mx-4 mt-3 flex flex-wrap items-baseline gap-x-5 gap-y-1 border-t border-rule pt-2 text-soft">
      <label>
        Kinds{" "}
        <select
          value={kind}
          onChange={(event) => onKind(event.target.value)}
          className="border-b border-ink bg-paper font-semibold text-ink"
        >
          <option value="">all four</option>
          {KINDS.map((name) => (
            <option key={name} value={name}>
              {KIND_NAMES[name]}
            </option>
          ))}
        </select>
      </label>
      {setting("schools", "Rates", schoolsSay(outlook))}
      {setting(
        "target",
        "Target",
        `${figure(outlook.target.value * 100, outlook.target.value > 0.99 ? 2 : 0)}% ${MEASURES[outlook.measure] ?? outlook.measure}`,
      )}
      {setting("review_days", "Review every", `${outlook.review_days.value} days`)}
      <span className="ml-auto">
        Buying list:{" "}
        <a href={`/api/v1/outlook/buying-list.csv${site}`} className="text-accent underline" download>
          CSV
        </a>{" "}
        <a
          href={`/api/v1/outlook/buying-list.pdf${site}`}
          className="text-accent underline"
          target="_blank"
          rel="noreferrer"
        >
          print
        </a>
      </span>
      {changing === "schools" && <SchoolsSheet outlook={outlook} onClose={() => setChanging(null)} />}
      {changing && changing !== "schools" && (
        <ChangeSheet outlook={outlook} name={changing} onClose={() => setChanging(null)} />
      )}
    </div>
  );
}

/** Which kinds are forecast how, in as few words as it takes. */
function schoolsSay(outlook: Outlook): string {
  const kinds = (of: (carried: number) => boolean): string[] =>
    outlook.schools.filter((school) => of(school.wear_out)).map((school) => KIND_NAMES[school.kind] ?? school.kind);
  const [aged, level, both] = [
    kinds((share) => share === 1),
    kinds((share) => share === 0),
    kinds((share) => share % 1 > 0),
  ];
  if (outlook.schools.length === 0) return "nothing yet";
  if (level.length === outlook.schools.length) return "constant";
  const said = [
    aged.length > 0 ? "by age" : "",
    level.length > 0 ? `${level.join(" and ")} constant` : "",
    both.length > 0 ? `${both.join(" and ")} averaged` : "",
  ];
  return said.filter(Boolean).join(", ");
}

const ABOUT: Record<Key, { title: string; about: string; label: string }> = {
  target: {
    title: "Target",
    about:
      "What is promised to who asks for a part. What it counts (requests met at once, days with one there, nobody refused, least cost) is set for the company, a kind or a part.",
    label: "Target, in per cent",
  },
  review_days: {
    title: "Review period",
    about: "How often somebody looks at the outlook and orders. A longer period needs more stock.",
    label: "Days between reviews",
  },
};

function ChangeSheet({ outlook, name, onClose }: { outlook: Outlook; name: Key; onClose: () => void }) {
  const current = outlook[name];
  const factor = name === "target" ? 100 : 1;
  const [value, setValue] = useState(String(Number((current.value * factor).toFixed(4))));
  const change = useChangeSetting();
  const problem = isProblem(change.error) ? change.error : null;
  const send = (event: FormEvent): void => {
    event.preventDefault();
    change.mutate(
      { scope: "company", scope_key: "", key: name, value: Number(value) / factor, expected_number: current.number },
      { onSuccess: onClose },
    );
  };
  return (
    <Sheet open onClose={onClose} title={ABOUT[name].title} about={ABOUT[name].about}>
      <form onSubmit={send} className="grid gap-4">
        <TextField
          label={ABOUT[name].label}
          inputMode="decimal"
          value={value}
          onChange={(event) => setValue(event.target.value)}
          fault={problem ? (problem.at("value") ?? problem.detail) : undefined}
          hint={
            name === "target"
              ? `Now ${percent(current.value)}. Holds from today on, for the whole company.`
              : "Holds from today on."
          }
        />
        <div className="flex gap-3">
          <Button
            type="submit"
            look="main"
            disabled={change.isPending || value.trim() === "" || Number.isNaN(Number(value))}
          >
            Change
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Sheet>
  );
}
