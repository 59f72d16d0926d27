import { useRef, useState } from "react";
import { scan } from "@/lib/scan";
import { useLabels } from "./bench.queries";

/** The simulated scanner: choose a label, and it is typed into the field that had the focus, with Enter. */
export function Scanner({ job }: { job: number | null }) {
  const [shown, setShown] = useState(false);
  const labels = useLabels(job, shown);
  const last = useRef<HTMLInputElement | null>(null);
  return (
    <details
      className="no-print text-[0.95em]"
      open={shown}
      onToggle={(event) => setShown(event.currentTarget.open)}
      // The field keeps its focus while a label is chosen: that is where a scanner types.
      onMouseDown={(event) => {
        const field = document.activeElement;
        if (field instanceof HTMLInputElement) last.current = field;
        if (event.target instanceof HTMLButtonElement) event.preventDefault();
      }}
    >
      <summary className="min-h-[32px] text-accent underline">Simulated scanner</summary>
      <p className="text-soft">Click into a field, then a label: it is typed there, with Enter.</p>
      <div className="mt-1 flex flex-wrap gap-2">
        {(labels.data?.labels ?? []).map((label) => (
          <button
            key={`${label.words}|${label.text}`}
            type="button"
            className="border border-soft bg-leaf px-2 py-1 text-left hover:bg-pick"
            onClick={() => {
              const field = document.activeElement instanceof HTMLInputElement ? document.activeElement : last.current;
              if (field) scan(field, label.text);
            }}
          >
            <span className="code">{label.text}</span> <span className="text-soft">{label.words}</span>
          </button>
        ))}
      </div>
    </details>
  );
}
