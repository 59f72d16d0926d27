import { isProblem } from "@/api/client";
import { figure, moment, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing, Waiting } from "@/ui/Notice";
import { useWork, useWorkAct, type Work } from "./work.queries";

const LOOKS: Record<string, string> = {
  failed: "text-short font-semibold",
  runs: "font-semibold",
  ending: "text-soft",
};

/** What is computed behind the pages: what runs, what waits, what failed; and how much room kept answers take. */
export default function WorkPage() {
  const found = useWork();
  if (found.isError) {
    return <FailedToRead title="Not to be seen" query={found} />;
  }
  if (!found.data) return <Waiting what="Looking at the queue" />;
  const { work, workers, answers, megabytes, ceiling_megabytes } = found.data;
  const under = work.filter((one) => one.status === "runs").length;
  const waits = work.filter((one) => one.status === "waits").length;
  return (
    <div className="min-h-0 flex-1 overflow-auto p-4">
      <h1 className="text-[1.75rem]">Work behind the pages</h1>
      <p className="mt-1 max-w-[70ch] font-serif text-[1.2rem] leading-snug">
        {workers === 0 ? (
          <strong className="text-short">No worker gives a sign of life: nothing new is computed.</strong>
        ) : (
          <>
            <strong>{plural(workers, "worker")}</strong>, {figure(under)} at work, {figure(waits)} waiting.
          </>
        )}{" "}
        {figure(answers)} answers are kept, {figure(megabytes, 1)} MB of at most {figure(ceiling_megabytes)} MB.
      </p>
      {work.length === 0 ? (
        <Nothing>Nothing waits and nothing failed. What is done leaves the list.</Nothing>
      ) : (
        <table className="mt-3 w-full max-w-[1100px]">
          <thead>
            <tr className="border-b border-ink text-left">
              {["What", "State", "How far", "Asked", "Begun", "Tries", ""].map((name) => (
                <th key={name} scope="col" className={`py-1 pr-3 ${name === "Tries" ? "text-right" : ""}`}>
                  {name || <span className="sr-only">Act</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {work.map((one) => (
              <Row key={one.id} work={one} />
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function Row({ work }: { work: Work }) {
  const cancel = useWorkAct("cancel");
  const retry = useWorkAct("retry");
  const problem = [cancel.error, retry.error].find(isProblem);
  const far = work.words ? `${work.words}${work.of && work.of > 1 ? `, ${work.done} of ${work.of}` : ""}` : "";
  return (
    <tr className="border-b border-dotted border-rule align-baseline">
      <th scope="row" className="py-1.5 pr-3 text-left font-normal">
        {work.what}
        {problem && (
          <span role="alert" className="block text-short">
            {problem.detail}
          </span>
        )}
      </th>
      <td className={`pr-3 ${LOOKS[work.status] ?? ""}`}>{work.status}</td>
      <td className="pr-3 text-soft">{work.status === "runs" ? far : ""}</td>
      <td className="pr-3 whitespace-nowrap">{work.asked_at ? moment(work.asked_at) : ""}</td>
      <td className="pr-3 whitespace-nowrap">{work.began_at ? moment(work.began_at) : ""}</td>
      <td className="pr-3 text-right">{work.attempts}</td>
      <td className="whitespace-nowrap text-right">
        {work.can_cancel && (
          <Button look="quiet" onClick={() => cancel.mutate(work.id)} disabled={cancel.isPending}>
            Cancel
          </Button>
        )}
        {work.can_retry && (
          <Button look="quiet" onClick={() => retry.mutate(work.id)} disabled={retry.isPending}>
            Try again
          </Button>
        )}
      </td>
    </tr>
  );
}
