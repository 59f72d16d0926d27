import { useSearchParams } from "react-router";

/** Names to set in the address; an empty or missing value takes the name away. */
export type Changed = Partial<Record<string, string | null>>;
export type ChangeAddress = (changed: Changed, how?: "replace") => void;

/**
 * What a view is asked for, as part of the address, and a way to change it.
 *
 * A change starts from the address as it is, not as it was when the view was last drawn: two changes in quick
 * succession (a filter cleared, a letter typed) both count. It is drawn at once, so that a field whose text is in
 * the address keeps what was typed.
 */
export function useAddress(): [URLSearchParams, ChangeAddress] {
  const [params, setParams] = useSearchParams();
  const change: ChangeAddress = (changed, how) => {
    const next = new URLSearchParams(window.location.search);
    for (const [name, value] of Object.entries(changed)) {
      if (value) next.set(name, value);
      else next.delete(name);
    }
    setParams(next, { replace: how === "replace", flushSync: true });
  };
  return [params, change];
}
