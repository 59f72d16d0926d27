import { useState } from "react";
import { Link } from "react-router";
import { HELD } from "@/api/declared";
import { figure, plural } from "@/lib/format";
import { useAddress } from "@/lib/useAddress";
import { useWalk } from "@/lib/useWalk";
import { KIND_NAMES } from "@/lib/words";
import type { ModelRow } from "./models.queries";
import { YamlSheet } from "./YamlSheet";

export interface ModelIndexProps {
  rows: ModelRow[];
  words: string;
  chosen: number | null;
  compared: number[];
  onCompare: (ids: number[]) => void;
  onOpen: (id: number) => void;
}

const TECHNOLOGIES = ["DDR3", "DDR3L", "DDR4", "DDR5", "LPDDR4X", "M.2", "2.5-inch"];
const KINDS_OF_PART = Object.keys(KIND_NAMES);
const HOLDS = HELD.map((held) => held.replace("_", " "));
const MOST_COMPARED = 4;

/** Every model by family, with its count in the fleet; searched by anything, filtered by what its parts are. */
export function ModelIndex({ rows, words, chosen, compared, onCompare, onOpen }: ModelIndexProps) {
  const [params, changeAddress] = useAddress();
  const [file, setFile] = useState(false);
  const takes = params.get("takes") ?? "";
  const held = params.get("held") ?? "";
  const change = (name: string, value: string): void => changeAddress({ [name]: value });
  const shown = rows.filter((row) => (!takes || row.takes.includes(takes)) && (!held || row.takes.includes(held)));
  const families = groups(shown);
  useWalk(
    shown.map((row) => row.model_id),
    chosen,
    onOpen,
  );
  const mark = (id: number): void =>
    onCompare(
      compared.includes(id) ? compared.filter((other) => other !== id) : [...compared, id].slice(-MOST_COMPARED),
    );
  return (
    <div className="flex min-h-full flex-col p-4">
      <div className="flex items-baseline justify-between border-b border-rule pb-1">
        <h1 className="text-[1.7rem]">Models</h1>
        <span className="text-soft">{figure(shown.length)}</span>
      </div>
      <SearchBox words={words} onSearch={(next) => change("q", next)} />
      <div className="mt-2 grid grid-cols-2 gap-2 text-[0.93rem]">
        <Filter label="Takes" value={takes} onChange={(value) => change("takes", value)} any="anything">
          {[...TECHNOLOGIES, ...KINDS_OF_PART]}
        </Filter>
        <Filter label="With a part" value={held} onChange={(value) => change("held", value)} any="held anyhow">
          {HOLDS}
        </Filter>
      </div>
      {families.map(([family, entries]) => (
        <section key={family} className="mt-3">
          <h2 className="text-[1.05rem]">{family}</h2>
          <ul>
            {entries.map((row) => (
              <IndexLine
                key={row.model_id}
                row={row}
                chosen={row.model_id === chosen}
                marked={compared.includes(row.model_id)}
                onOpen={() => onOpen(row.model_id)}
                onMark={() => mark(row.model_id)}
              />
            ))}
          </ul>
        </section>
      ))}
      {shown.length === 0 && <p className="mt-4 text-soft">No model answers. Try fewer words or another filter.</p>}
      <div className="mt-auto flex flex-wrap gap-x-4 gap-y-1 pt-4 text-[0.95rem]">
        {compared.length > 1 ? (
          <Link className="font-semibold text-accent underline" to={`/models/compare?models=${compared.join(",")}`}>
            Compare {compared.length} models
          </Link>
        ) : (
          <span className="text-soft">Tick two to four models to compare</span>
        )}
        <Link className="text-accent underline" to="/models/line-up">
          Line-up
        </Link>
        <Link className="text-accent underline" to="/models/new">
          New model
        </Link>
        <button type="button" className="text-accent underline" onClick={() => setFile(true)}>
          Read a page file
        </button>
      </div>
      <YamlSheet open={file} onClose={() => setFile(false)} />
    </div>
  );
}

function SearchBox({ words, onSearch }: { words: string; onSearch: (words: string) => void }) {
  const [text, setText] = useState(words);
  return (
    <form
      className="mt-2"
      onSubmit={(event) => {
        event.preventDefault();
        onSearch(text.trim());
      }}
    >
      <input
        aria-label="Find a model by label, part number or property"
        placeholder="Label, part number, property"
        className="w-full rounded-[2px] border border-soft bg-leaf px-2 py-1"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          if (event.target.value === "") onSearch("");
        }}
      />
    </form>
  );
}

interface FilterProps {
  label: string;
  value: string;
  any: string;
  onChange: (value: string) => void;
  children: string[];
}

function Filter({ label, value, any, onChange, children }: FilterProps) {
  return (
    <label className="block min-w-0">
      <span className="block text-soft">{label}</span>
      <select
        className="w-full min-w-0 border-b border-ink bg-transparent py-0.5 font-semibold"
        value={value}
        onChange={(event) => onChange(event.target.value)}
      >
        <option value="">{any}</option>
        {children.map((name) => (
          <option key={name} value={name}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}

interface LineProps {
  row: ModelRow;
  chosen: boolean;
  marked: boolean;
  onOpen: () => void;
  onMark: () => void;
}

function IndexLine({ row, chosen, marked, onOpen, onMark }: LineProps) {
  return (
    <li
      className={`flex items-baseline gap-2 border-b border-dotted border-rule pl-2 ${
        chosen ? "bg-pick shadow-[inset_4px_0_0_var(--accent)]" : ""
      }`}
    >
      <input type="checkbox" checked={marked} onChange={onMark} aria-label={`Compare ${row.maker} ${row.name}`} />
      <button
        type="button"
        className={`min-w-0 flex-1 py-1 text-left ${chosen ? "font-semibold" : ""}`}
        aria-current={chosen ? "true" : undefined}
        onClick={onOpen}
      >
        {row.name}
        {row.draft && <span className="ml-1 text-soft">draft</span>}
        {row.unverified && (
          <span className="ml-1 text-thin" title={row.unverified}>
            unverified
          </span>
        )}
        {row.reasons[0] && <span className="block text-[0.86rem] font-normal text-soft">{row.reasons[0]}</span>}
      </button>
      {row.open_facts > 0 && (
        <span
          className="text-[0.86rem] text-soft"
          title={plural(row.open_facts, "fact still open", "facts still open")}
        >
          {row.open_facts} open
        </span>
      )}
      <span className="w-9 pr-1 text-right">{figure(row.fleet)}</span>
    </li>
  );
}

function groups(rows: ModelRow[]): [string, ModelRow[]][] {
  const found = new Map<string, ModelRow[]>();
  for (const row of rows) {
    const family = `${row.maker} ${row.family}`;
    found.set(family, [...(found.get(family) ?? []), row]);
  }
  return [...found];
}
