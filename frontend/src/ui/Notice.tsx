import type { ReactNode } from "react";
import { Button } from "./Button";

/** Designed states of a page that has nothing to show: it waits, it failed, it is empty, it is not allowed. */
export function Waiting({ what }: { what: string }) {
  return (
    <p role="status" className="p-5 text-soft">
      {what}…
    </p>
  );
}

export interface FailedProps {
  title: string;
  detail: string;
  onRetry?: () => void;
}

export function Failed({ title, detail, onRetry }: FailedProps) {
  return (
    <div role="alert" className="m-5 border-l-4 border-short bg-pick p-4">
      <p className="font-semibold text-short">{title}</p>
      <p>{detail}</p>
      {onRetry && (
        <Button className="mt-3" onClick={onRetry}>
          Try again
        </Button>
      )}
    </div>
  );
}

export function Nothing({ children }: { children: ReactNode }) {
  return <div className="p-5 text-soft">{children}</div>;
}
