import { isProblem } from "@/api/client";
import { Failed } from "./Notice";

export interface FailedToReadProps {
  title: string;
  query: { error: Error | null; refetch: () => unknown };
}

/** What could not be read, and why. Asking again is offered where that can help: not for what is not there or not allowed. */
export function FailedToRead({ title, query }: FailedToReadProps) {
  const { error } = query;
  const status = isProblem(error) ? error.status : 0;
  if (status === 404) {
    return (
      <div className="m-5 border-l-4 border-rule bg-pick p-4" role="alert">
        <p className="font-semibold">{title}</p>
        <p>{error?.message}</p>
      </div>
    );
  }
  const again = status === 0 || status >= 500 || status === 429;
  return (
    <Failed title={title} detail={error?.message ?? ""} {...(again ? { onRetry: () => void query.refetch() } : {})} />
  );
}
