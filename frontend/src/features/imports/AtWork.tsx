import { figure } from "@/lib/format";
import { Button } from "@/ui/Button";
import { useStop, type Work } from "./lists.queries";

/** A worker is at a long list: with what, how far, and a way to stop it before anything is saved. */
export function AtWork({ what, work }: { what: string; work: Work }) {
  const stop = useStop();
  const stopping = stop.isPending || stop.isSuccess;
  return (
    <div className="flex flex-wrap items-center gap-3 py-2" role="status">
      <span>
        {what} {work.file_name}: {stopping ? "stopping" : work.words}
        {work.of > 1 && !stopping && `, ${figure(work.done)} of ${figure(work.of)}`}
      </span>
      <progress
        aria-label={`${what} ${work.file_name}`}
        className="w-32 accent-(--accent)"
        {...(work.of > 1 ? { value: work.done, max: work.of } : {})}
      />
      <Button disabled={stopping} onClick={() => stop.mutate(work.id)}>
        Stop
      </Button>
    </div>
  );
}
