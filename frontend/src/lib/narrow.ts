import { useSyncExternalStore } from "react";

/** Where the two pages of a spread lie below each other. */
export const NARROW = "(max-width: 900px)";

/** Where a row of a table stands as a block. */
export const STACKED = "(max-width: 700px)";

function watch(tell: () => void): () => void {
  const list = window.matchMedia(STACKED);
  list.addEventListener("change", tell);
  return () => list.removeEventListener("change", tell);
}

/** Whether rows stand as blocks now. */
export const useStacked = (): boolean => useSyncExternalStore(watch, () => window.matchMedia(STACKED).matches);
