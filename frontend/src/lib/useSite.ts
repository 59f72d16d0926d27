import { useSearchParams } from "react-router";

/** The site chosen is part of the address, so that a view can be sent to a colleague. */
export function useSite(): [string | null, (code: string | null) => void] {
  const [params, setParams] = useSearchParams();
  const choose = (code: string | null): void =>
    setParams((before) => {
      const next = new URLSearchParams(before);
      if (code) next.set("site", code);
      else next.delete("site");
      return next;
    });
  return [params.get("site"), choose];
}
