import { useState } from "react";
import type { Job } from "./local";
import type { Bench } from "./useBench";

const HELD = ["socketed", "screwed", "clipped", "taped", "glued", "staked", "soldered"] as const;

/** What the page does not know yet, asked while it can be seen. An answer goes to the page when the job closes. */
export function SettleFacts({ job, bench }: { job: Job; bench: Bench }) {
  const [later, setLater] = useState<string[]>([]);
  const open = job.facts.filter((fact) => !later.includes(`${fact.position}/${fact.name}`)).slice(0, 2);
  if (open.length === 0) return null;
  return (
    <section aria-label="Settle while open" className="mt-4 border-t border-rule pt-3">
      {open.map((fact) => (
        <Fact
          key={`${fact.position}/${fact.name}`}
          fact={fact}
          onLater={() => setLater([...later, `${fact.position}/${fact.name}`])}
          onSettle={(value) =>
            void bench.write("settle", {
              position: fact.position,
              field: fact.field,
              name: fact.name,
              value,
              grade: "measured",
            })
          }
        />
      ))}
    </section>
  );
}

interface FactProps {
  fact: Job["facts"][number];
  onLater: () => void;
  onSettle: (value: string | number | boolean) => void;
}

/** Numbers stay numbers, yes and no become true and false: what a page file would hold. */
export function typedValue(text: string): string | number | boolean {
  const words = text.trim();
  if (words.toLowerCase() === "yes") return true;
  if (words.toLowerCase() === "no") return false;
  return /^-?\d+([.,]\d+)?$/.test(words) ? Number(words.replace(",", ".")) : words;
}

function Fact({ fact, onLater, onSettle }: FactProps) {
  const [text, setText] = useState("");
  return (
    <form
      className="mb-2 grid grid-cols-[minmax(0,1fr)_220px_auto_auto] items-center gap-3 max-[1000px]:grid-cols-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) onSettle(typedValue(text));
      }}
    >
      <label htmlFor={`${fact.position}-${fact.name}`}>
        While it is open, settle: <strong>{fact.question}</strong>
        {fact.now && <span className="text-soft"> The page says {fact.now}.</span>}
      </label>
      {fact.field === "serviceability" ? (
        <select
          id={`${fact.position}-${fact.name}`}
          className="min-h-[56px] border-2 border-soft bg-leaf px-2"
          value={text}
          onChange={(event) => setText(event.target.value)}
        >
          <option value="">choose</option>
          {HELD.map((held) => (
            <option key={held}>{held}</option>
          ))}
        </select>
      ) : fact.field === "needs" ? (
        <select
          id={`${fact.position}-${fact.name}`}
          className="min-h-[56px] border-2 border-soft bg-leaf px-2"
          value={text}
          onChange={(event) => setText(event.target.value)}
        >
          <option value="">choose</option>
          <option value="yes">yes, it has to come first</option>
          <option value="no">no, it goes without</option>
        </select>
      ) : (
        <input
          id={`${fact.position}-${fact.name}`}
          className="min-h-[56px] border-2 border-soft bg-leaf px-2"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      )}
      <button type="submit" className="min-h-[56px] border-2 border-ink bg-leaf px-4 font-semibold">
        Settle
      </button>
      <button type="button" className="min-h-[56px] px-2 text-accent underline" onClick={onLater}>
        not visible yet
      </button>
    </form>
  );
}
