import { type QueryKey, useIsFetching, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Button } from "./Button";

const SECOND = 1000;

export interface ComputingProps {
  what: string;
  queryKey: QueryKey;
  /** Beside figures that are there already: nothing is said before a second has gone by. */
  beside?: boolean;
}

/** Something is worked out: what, for how long so far, and a way to stop it and to go on again. */
export function Computing({ what, queryKey, beside = false }: ComputingProps) {
  const client = useQueryClient();
  const fetching = useIsFetching({ queryKey, exact: true }) > 0;
  const seconds = useSeconds(fetching);
  if (!fetching && beside) return null;
  if (!fetching) {
    return (
      <p role="status" className="flex items-center gap-3 p-5 text-soft">
        Stopped. <Button onClick={() => void client.refetchQueries({ queryKey, exact: true })}>Go on</Button>
      </p>
    );
  }
  if (beside && seconds < 1) return null;
  return (
    <p role="status" className={`flex flex-wrap items-center gap-3 text-soft ${beside ? "py-1" : "p-5"}`}>
      {what}…
      {seconds >= 1 && (
        <>
          <progress aria-label={what} className="w-24 accent-(--accent)" />
          <span aria-hidden="true">{seconds} s</span>
          <Button onClick={() => void client.cancelQueries({ queryKey, exact: true })}>Stop</Button>
        </>
      )}
    </p>
  );
}

/** Whole seconds for which something has been going on. */
function useSeconds(going: boolean): number {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    setSeconds(0);
    if (!going) return;
    const tick = setInterval(() => setSeconds((before) => before + 1), SECOND);
    return () => clearInterval(tick);
  }, [going]);
  return seconds;
}
