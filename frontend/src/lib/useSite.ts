import { useAddress } from "./useAddress";

/** The site chosen is part of the address, so that a view can be sent to a colleague. */
export function useSite(): [string | null, (code: string | null) => void] {
  const [params, change] = useAddress();
  return [params.get("site"), (code) => change({ site: code })];
}
