import { Link } from "react-router";
import { Failed, Nothing, Waiting } from "@/ui/Notice";
import { Sheet } from "@/ui/Sheet";
import { AnswerForm } from "./Approvals";
import { useApprovals } from "./bench.queries";

/** What somebody at a bench may not decide alone and asks of others, each to be answered here. */
export function ApprovalsSheet({ onClose }: { onClose: () => void }) {
  const found = useApprovals();
  return (
    <Sheet
      open
      onClose={onClose}
      title="Approvals asked"
      wide
      about="Each waits at a bench; the worker's own word is none."
    >
      {found.isError && <Failed title="No approvals" detail={found.error.message} />}
      {!found.data && !found.isError && <Waiting what="Reading what is asked" />}
      {found.data?.approvals.length === 0 && <Nothing>Nobody waits for an approval.</Nothing>}
      <ul className="grid gap-5">
        {found.data?.approvals.map((approval) => (
          <li key={approval.id} className="border-b border-rule pb-4">
            <h3 className="text-[1.15rem]">{approval.title}</h3>
            <p className="mb-2">
              <Link className="code text-accent underline" to={`/bench/${approval.job_id}`}>
                job {approval.job_id}
              </Link>{" "}
              <span className="code">{approval.tag}</span>, asked by {approval.asked_by}: {approval.reason}
            </p>
            <AnswerForm approval={approval} />
          </li>
        ))}
      </ul>
    </Sheet>
  );
}
