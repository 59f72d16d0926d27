import { useEffect, useState } from "react";
import { plural } from "@/lib/format";
import { useCheck } from "../models.queries";
import type { Page } from "./document";

const PAUSE_MS = 500;

/** What is wrong with the page as it stands, and what it leaves open; asked again when the pen rests. */
export function ChecksPane({ page }: { page: Page }) {
  const [asked, setAsked] = useState<Page | null>(page);
  useEffect(() => {
    const timer = setTimeout(() => setAsked(page), PAUSE_MS);
    return () => clearTimeout(timer);
  }, [page]);
  const checked = useCheck(asked);
  const faults = checked.data?.faults ?? [];
  const wrong = faults.filter((fault) => !fault.open);
  const open = faults.filter((fault) => fault.open && !fault.noted);
  const noted = faults.filter((fault) => fault.noted);
  return (
    <section className="mt-3" aria-live="polite">
      <h2 className="border-b border-rule text-[1.15rem]">
        {checked.data?.sound
          ? "Sound"
          : wrong.length
            ? plural(wrong.length, "thing to correct", "things to correct")
            : checked.data
              ? "Begun"
              : "Checking"}
        {open.length > 0 && (
          <span className="ml-2 font-sans text-base font-normal text-soft">{plural(open.length, "open fact")}</span>
        )}
      </h2>
      <ul className="mt-1 max-h-[34vh] overflow-y-auto text-[0.95rem]">
        {[...wrong, ...open, ...noted].map((fault) => (
          <li
            key={`${fault.where}${fault.message}`}
            className={`border-l-4 bg-pick px-2 py-0.5 [&+li]:mt-1 ${edge(fault)}`}
          >
            {fault.message}: <span className="text-soft">{fault.cure}</span>
            {fault.where && <span className="code block text-[0.86rem] text-soft">{fault.where}</span>}
          </li>
        ))}
        {faults.length === 0 && checked.data && <li className="text-soft">Nothing is wrong and nothing is open.</li>}
      </ul>
    </section>
  );
}

/** Red where it is wrong, amber where nobody knows, plain where it was only written otherwise. */
function edge(fault: { open: boolean; noted: boolean }): string {
  if (fault.noted) return "border-rule";
  return fault.open ? "border-thin" : "border-short";
}
