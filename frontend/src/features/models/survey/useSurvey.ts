import { useEffect, useState } from "react";
import { storedDocument } from "@/api/client";
import type { Page } from "./document";

const KEY = "almanac.survey";

export interface Survey {
  page: Page;
  number: number | null;
  unsaved: boolean;
  change: (next: Partial<Page>) => void;
  forget: () => void;
}

/** The page under the pen, kept in this browser from the first change until it is saved or thrown away. */
export function useSurvey(name: string, begun: Page, number: number | null): Survey {
  const place = `${KEY}.${name}`;
  const [kept] = useState(() => storedDocument(localStorage.getItem(place)));
  const [page, setPage] = useState<Page>(kept?.page ?? begun);
  const [unsaved, setUnsaved] = useState(kept !== null);
  const from = kept?.number ?? number;
  useEffect(() => {
    if (unsaved) localStorage.setItem(place, JSON.stringify({ page, number: from }));
  }, [place, page, from, unsaved]);
  return {
    page,
    number: from,
    unsaved,
    change: (next) => {
      setPage((before) => ({ ...before, ...next }));
      setUnsaved(true);
    },
    forget: () => {
      localStorage.removeItem(place);
      setUnsaved(false);
      setPage(begun);
    },
  };
}
