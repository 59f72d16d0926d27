import { useEffect, useRef } from "react";
import { useKeys } from "./useKeys";

/**
 * Walks an index with the arrow keys. Where it stands is kept here, because keys can be pressed faster than the address
 * and the page follow.
 */
export function useWalk<Id extends string | number>(ids: Id[], chosen: Id | null, open: (id: Id) => void): void {
  const at = useRef(chosen);
  useEffect(() => {
    at.current = chosen;
  }, [chosen]);
  const step = (by: number): void => {
    const place = at.current === null ? -1 : ids.indexOf(at.current);
    const next = ids[place === -1 ? 0 : Math.min(Math.max(place + by, 0), ids.length - 1)];
    if (next === undefined) return;
    at.current = next;
    open(next);
  };
  useKeys({ ArrowDown: () => step(1), ArrowUp: () => step(-1) });
}
