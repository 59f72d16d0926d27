import type { Schemas } from "@/api/client";
import { plural } from "@/lib/format";
import type { Page } from "./document";
import { type Stop, stopOf } from "./walk";

type Fault = Schemas["PageFaultView"];

export interface ChecksPaneProps {
  checked: Schemas["PageChecked"] | undefined;
  page: Page;
  at: Stop;
  stops: Stop[];
  onGo: (stop: string) => void;
}

/** What is wrong with the page as it stands and what it leaves open: at this stop first, then where else. */
export function ChecksPane({ checked, page, at, stops, onGo }: ChecksPaneProps) {
  const faults = checked?.faults ?? [];
  const wrong = faults.filter((fault) => !fault.open);
  const open = faults.filter((fault) => fault.open && !fault.noted);
  const order = [...wrong, ...open, ...faults.filter((fault) => fault.noted)];
  const here = order.filter((fault) => stopOf(fault, page) === at.id);
  const elsewhere = order.filter((fault) => stopOf(fault, page) !== at.id);
  const label = (fault: Fault): string => stops.find((stop) => stop.id === stopOf(fault, page))?.label ?? "";
  return (
    <section className="mt-3" aria-live="polite">
      <h2 className="border-b border-rule text-[1.15rem]">
        {checked?.sound
          ? "Sound"
          : wrong.length
            ? plural(wrong.length, "thing to correct", "things to correct")
            : checked
              ? "Begun"
              : "Checking"}
        {open.length > 0 && (
          <span className="ml-2 font-sans text-base font-normal text-soft">{plural(open.length, "open fact")}</span>
        )}
      </h2>
      <h3 className="mt-1 font-sans text-[0.95rem] font-semibold">At this stop</h3>
      {here.length === 0 && checked && (
        <p className="text-[0.95rem] text-soft">Nothing is wrong and nothing is open.</p>
      )}
      <ul className="text-[0.95rem]">
        {here.map((fault) => (
          <Line key={`${fault.where}${fault.message}`} fault={fault} />
        ))}
      </ul>
      {elsewhere.length > 0 && (
        <details className="mt-2" open={here.length === 0}>
          <summary className="cursor-pointer text-[0.95rem] font-semibold">
            Elsewhere on the page: {elsewhere.length}
          </summary>
          <ul className="mt-1 max-h-[40vh] overflow-y-auto text-[0.95rem]">
            {elsewhere.map((fault) => (
              <Line key={`${fault.where}${fault.message}`} fault={fault}>
                <button
                  type="button"
                  className="block min-h-[24px] text-left text-accent underline"
                  onClick={() => onGo(stopOf(fault, page))}
                >
                  go there: {label(fault)}
                </button>
              </Line>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}

function Line({ fault, children }: { fault: Fault; children?: React.ReactNode }) {
  return (
    <li className={`border-l-4 bg-pick px-2 py-0.5 [&+li]:mt-1 ${edge(fault)}`}>
      {fault.message}: <span className="text-soft">{fault.cure}</span>
      {children}
    </li>
  );
}

/** Red where it is wrong, amber where nobody knows, plain where it was only written otherwise. */
function edge(fault: Fault): string {
  if (fault.noted) return "border-rule";
  return fault.open ? "border-thin" : "border-short";
}
