import type { Bench } from "./useBench";

/** What the rules of the bench did not take, each with its reason, until somebody has read it. */
export function Refused({ bench }: { bench: Bench }) {
  if (bench.refused.length === 0) return null;
  return (
    <div role="alert" className="mb-4 border-l-4 border-short bg-leaf p-3">
      {bench.refused.map((reason) => (
        <p key={reason} className="font-semibold text-short">
          {reason}
        </p>
      ))}
      <button type="button" className="mt-1 min-h-[44px] text-accent underline" onClick={bench.forgetRefusal}>
        Understood
      </button>
    </div>
  );
}
