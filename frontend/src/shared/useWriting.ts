import { useMutation, useQueryClient } from "@tanstack/react-query";

/** Whatever is written to stores and orders changes shelves, tally and outlook: all that is on the page is read again. Nobody waits for
 * it: what was read anew may take away the very part of the page that still has to lead on. What names sites and lanes anew says so: the
 * session holds their words. */
export function useWriting<In, Out>(mutationFn: (input: In) => Promise<Out>, { sites = false } = {}) {
  const client = useQueryClient();
  return useMutation({
    mutationFn,
    onSuccess: () => {
      void client.invalidateQueries({ predicate: (query) => sites || query.queryKey[0] !== "session" });
    },
  });
}
