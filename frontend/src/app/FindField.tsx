import { type KeyboardEvent, useId, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { useLocation, useNavigate } from "react-router";
import type { Schemas } from "@/api/client";
import { useFind, useFindNow } from "@/features/session/session.queries";
import { useKeys } from "@/lib/useKeys";

type Found = Schemas["Found"];

const NAMES: Record<string, string> = { asset: "machine" };

/** A tag scanned at the bench opens a job on that machine; elsewhere it leads to the machine's page. */
const addressOf = (found: Found, here: string): string => {
  if (found.kind === "asset" && here.startsWith("/bench")) return `/bench/new?tag=${encodeURIComponent(found.key)}`;
  if (found.kind === "part") return `/outlook/${encodeURIComponent(found.key)}`;
  if (found.kind === "asset") return `/machines/${encodeURIComponent(found.key)}`;
  if (found.kind === "site") return `/stores?site=${encodeURIComponent(found.key)}`;
  if (found.kind === "kind") return `/rates/${found.key}`;
  if (found.kind === "order") return `/stores/orders/${encodeURIComponent(found.key)}`;
  return found.kind === "page" ? found.key : `/models/${found.key}`;
};

/** One field for everything that has a number. A scanner types into it and presses Enter. */
export function FindField() {
  const [words, setWords] = useState("");
  const [marked, setMarked] = useState(0);
  const input = useRef<HTMLInputElement>(null);
  const list = useId();
  const navigate = useNavigate();
  const location = useLocation();
  const { data = [], isFetched } = useFind(words.trim());
  const found = words.trim().length > 1 ? data : [];
  const findNow = useFindNow();
  useKeys({ "/": () => input.current?.focus() });

  const open = (chosen: Found | undefined): void => {
    if (!chosen) return;
    flushSync(() => setWords("")); // a scanner's next code must not land behind this one
    input.current?.blur();
    const site = new URLSearchParams(location.search).get("site");
    const address = addressOf(chosen, location.pathname);
    navigate(site && chosen.kind !== "site" ? `${address}${address.includes("?") ? "&" : "?"}site=${site}` : address);
  };
  const enter = async (): Promise<void> => {
    const ready = found[marked] ?? found[0];
    if (ready || !words.trim()) open(ready);
    else open((await findNow(words.trim()))[0]);
  };
  const press = (event: KeyboardEvent): void => {
    if (event.key === "Enter") void enter();
    else if (event.key === "ArrowDown") setMarked(Math.min(marked + 1, found.length - 1));
    else if (event.key === "ArrowUp") setMarked(Math.max(marked - 1, 0));
    else if (event.key === "Escape") {
      setWords("");
      input.current?.blur();
    } else return;
    event.preventDefault();
  };
  return (
    <div className="relative w-[min(300px,34vw)]">
      <input
        ref={input}
        value={words}
        onChange={(event) => {
          setWords(event.target.value);
          setMarked(0);
        }}
        onKeyDown={press}
        role="combobox"
        aria-expanded={found.length > 0}
        aria-controls={list}
        aria-activedescendant={found[marked] ? `${list}-${marked}` : undefined}
        aria-label="Find a part, pack, tag or model"
        placeholder="Find a part, pack, tag or model"
        className="w-full border-b border-ink bg-transparent px-1 py-0.5 pr-8 placeholder:text-soft"
      />
      <kbd className="pointer-events-none absolute top-0.5 right-1 rounded-[2px] border border-rule bg-leaf px-1.5 text-[0.86rem] text-soft">
        /
      </kbd>
      <div
        id={list}
        role="listbox"
        tabIndex={-1}
        aria-label="Found"
        className={`absolute top-full right-0 z-30 mt-1 w-[360px] border border-ink bg-leaf ${found.length || (isFetched && words.trim().length > 1) ? "" : "hidden"}`}
      >
        {found.map((entry, place) => (
          <button
            type="button"
            key={`${entry.kind}-${entry.key}`}
            id={`${list}-${place}`}
            role="option"
            aria-selected={place === marked}
            tabIndex={-1}
            onMouseEnter={() => setMarked(place)}
            onClick={() => open(entry)}
            className={`flex w-full items-baseline justify-between gap-3 px-3 py-1 text-left ${place === marked ? "bg-pick" : ""}`}
          >
            <span className="min-w-0 truncate">
              <span className={["part", "asset", "order"].includes(entry.kind) ? "code" : ""}>{entry.label}</span>
              <span className="ml-2 text-soft">{entry.detail}</span>
            </span>
            <span className="text-[0.88rem] text-soft">{NAMES[entry.kind] ?? entry.kind}</span>
          </button>
        ))}
        {found.length === 0 && <p className="px-3 py-1 text-soft">Nothing carries “{words.trim()}”.</p>}
      </div>
    </div>
  );
}
