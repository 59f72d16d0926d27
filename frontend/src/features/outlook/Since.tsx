import { useState } from "react";
import type { Schemas } from "@/api/client";
import { day, figure, plural } from "@/lib/format";
import { useSite } from "@/lib/useSite";
import { KIND_NAMES, KINDS } from "@/lib/words";
import { Computing } from "@/ui/Computing";
import { useChanges } from "./outlook.queries";

type Change = Schemas["ChangeView"];

const STEPS = [
  ["ageing", "Ageing", "the fleet of then, a month on"],
  ["fleet", "Fleet", "units that came, went or were renewed"],
  ["log", "Log", "what was recorded since"],
  ["settings", "Settings", "the school that was set"],
] as const;

/** A difference with its sign; what rounds to nothing has none. */
export function signed(value: number): string {
  const words = figure(Math.abs(value), 1);
  return words === "0.0" ? words : `${value < 0 ? "−" : "+"}${words}`;
}

/** What changed in a part's demand since a month ago, and why, in the order in which the parts add up. */
export function Since({ kind, number }: { kind: string; number: string }) {
  const [site] = useSite();
  const found = useChanges(kind, site);
  if (found.isError) return null;
  const change = found.data?.parts.find((part) => part.part === number);
  return (
    <section className="mt-4" aria-label="What changed">
      <h3 className="flex items-baseline justify-between border-b border-rule pb-0.5 font-sans text-[1rem]">
        What changed in a month <span className="font-normal text-[0.93rem] text-soft">parts in 365 days</span>
      </h3>
      {!found.data && <Computing what="Looking a month back" queryKey={["changes", kind, site]} />}
      {found.data && !change && <p>Cannot say: then or now nothing could be said of this part.</p>}
      {found.data && change && (
        <table className="w-full">
          <tbody>
            <tr className="border-b border-dotted border-rule">
              <th scope="row" className="py-0.5 font-normal">
                Expected on {day(found.data.since)}
              </th>
              <td className="text-right">{figure(change.before, 1)}</td>
            </tr>
            {STEPS.map(([step, name, why]) => (
              <tr key={step} className="border-b border-dotted border-rule">
                <th scope="row" className="py-0.5 font-normal">
                  {name} <span className="text-[0.93rem] text-soft">{why}</span>
                  {step === "log" &&
                    found.data.accepted.map((words) => (
                      <span key={words} className="block text-[0.93rem]">
                        {words}
                      </span>
                    ))}
                </th>
                <td className="text-right">{signed(change[step])}</td>
              </tr>
            ))}
            <tr className="border-t border-b-4 border-double border-ink">
              <th scope="row" className="py-0.5">
                Expected now
              </th>
              <td className="text-right font-semibold">{figure(change.now, 1)}</td>
            </tr>
          </tbody>
        </table>
      )}
    </section>
  );
}

/** The same for every kind, in one table. */
export function SinceAll() {
  const [shown, setShown] = useState(false);
  return (
    <section className="mt-5" aria-label="What changed">
      <h3 className="flex items-baseline justify-between border-b border-ink pb-0.5 font-sans text-[1rem]">
        What changed in a month
        <span className="font-normal text-[0.93rem] text-soft">
          parts in 365 days{" "}
          <button
            type="button"
            className="no-print ml-2 text-accent underline"
            aria-expanded={shown}
            onClick={() => setShown(!shown)}
          >
            {shown ? "close" : "look"}
          </button>
        </span>
      </h3>
      {shown && <SinceTable />}
    </section>
  );
}

function SinceTable() {
  return (
    <table className="w-full">
      <thead>
        <tr className="text-soft">
          <th scope="col" className="font-normal">
            <span className="sr-only">Kind</span>
          </th>
          {["Then", "Ageing", "Fleet", "Log", "Settings", "Now"].map((name) => (
            <th key={name} scope="col" className="py-0.5 text-right font-normal">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {KINDS.map((kind) => (
          <KindSince key={kind} kind={kind} />
        ))}
      </tbody>
    </table>
  );
}

const total = (parts: Change[], step: "before" | "ageing" | "fleet" | "log" | "settings" | "now"): number =>
  parts.reduce((sum, part) => sum + part[step], 0);

function KindSince({ kind }: { kind: string }) {
  const [site] = useSite();
  const found = useChanges(kind, site);
  const parts = found.data?.parts;
  return (
    <tr className="border-b border-dotted border-rule">
      <th scope="row" className="py-0.5 font-normal">
        {KIND_NAMES[kind]}
        {found.data && found.data.unsaid > 0 && (
          <span className="text-[0.93rem] text-soft"> {plural(found.data.unsaid, "part")} cannot be said</span>
        )}
      </th>
      {parts && parts.length > 0 ? (
        <>
          <td className="text-right">{figure(total(parts, "before"), 1)}</td>
          {STEPS.map(([step]) => (
            <td key={step} className="text-right">
              {signed(total(parts, step))}
            </td>
          ))}
          <td className="text-right font-semibold">{figure(total(parts, "now"), 1)}</td>
        </>
      ) : (
        <td colSpan={6} className="text-right text-soft">
          {found.isError ? "not to be had" : parts ? "cannot say" : "looking a month back…"}
        </td>
      )}
    </tr>
  );
}
