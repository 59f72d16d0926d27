import { createContext, use, useEffect, useRef, useState } from "react";
import { type StoredDocument, storedDocument } from "@/api/client";
import type { Evidence, Operation, Page, Position } from "./document";

const KEY = "almanac.survey";

export interface Survey {
  page: Page;
  number: number | null;
  unsaved: boolean;
  /** Lines typed and not read yet, by where they stand: they are read as the page is saved. */
  typed: Record<string, string>;
  /** The page as it is this moment, for who waited since the screen was drawn. */
  now: () => Page;
  change: (next: Partial<Page> | ((page: Page) => Partial<Page>)) => void;
  type: (where: string, line: string | ((before: string) => string)) => void;
  forget: () => void;
}

/** The page under the pen, kept in this browser from the first change until it is saved or thrown away. */
export function useSurvey(name: string, begun: Page, number: number | null): Survey {
  const place = `${KEY}.${name}`;
  const [kept] = useState(() => storedDocument(localStorage.getItem(place)));
  const [page, setPage] = useState<Page>(kept?.page ?? begun);
  const [typed, setTyped] = useState<Record<string, string>>(kept?.typed ?? {});
  const [unsaved, setUnsaved] = useState(kept !== null);
  const latest = useRef(page);
  const from = kept?.number ?? number;
  useEffect(() => {
    const stored: StoredDocument = { page, number: from, typed };
    if (unsaved) localStorage.setItem(place, JSON.stringify(stored));
  }, [place, page, from, typed, unsaved]);
  const put = (next: Page): void => {
    latest.current = next;
    setPage(next);
  };
  return {
    page,
    number: from,
    unsaved,
    typed,
    now: () => latest.current,
    change: (next) => {
      const before = latest.current;
      put({ ...before, ...(typeof next === "function" ? next(before) : next) });
      setUnsaved(true);
    },
    type: (where, line) => {
      setTyped(({ [where]: before = "", ...others }) => {
        const now = typeof line === "function" ? line(before) : line;
        return now ? { ...others, [where]: now } : others;
      });
      setUnsaved(true);
    },
    forget: () => {
      localStorage.removeItem(place);
      setUnsaved(false);
      put(begun);
      setTyped({});
    },
  };
}

/** What every stop of the walk is given. */
export interface Walking extends Survey {
  /** Evidence new facts are given. */
  evidence: Evidence;
  today: string;
  /** Positions and steps of the page, and those taken over from its sibling. */
  positions: Position[];
  steps: Operation[];
  go: (stop: string) => void;
}

export const WalkContext = createContext<Walking | null>(null);

export function useWalk(): Walking {
  const walk = use(WalkContext);
  if (!walk) throw new Error("a stop stands in a walk");
  return walk;
}
