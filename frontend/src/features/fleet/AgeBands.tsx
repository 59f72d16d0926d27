import { useState } from "react";
import { figure, plural } from "@/lib/format";
import { useAddress } from "@/lib/useAddress";
import { KIND_NAMES } from "@/lib/words";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { type Ages, type Look, useAges } from "./fleet.queries";
import { bandWords } from "./words";

export interface AgeBandsProps {
  look: Look;
  onLook: (changed: Partial<Look>) => void;
  sites: number;
}

/** The fleet by age: how many machines of each model, or at each site, are how old, and what they will ask for. */
export function AgeBands({ look, onLook, sites }: AgeBandsProps) {
  const [params, changeAddress] = useAddress();
  const by = params.get("by") === "site" && sites > 1 ? "site" : "model";
  const ages = useAges(by, look.site);
  const turn = (to: string): void => changeAddress({ by: to === "site" ? to : null }, "replace");
  return (
    <div className="p-4">
      <h1 className="text-[1.75rem]">Fleet</h1>
      {ages.isError && <FailedToRead title="The fleet cannot be counted" query={ages} />}
      {ages.isPending && <Computing what="Counting the fleet" queryKey={["ages", by, look.site]} />}
      {ages.data && (
        <>
          <Sentence ages={ages.data} sites={look.site ? 1 : sites} />
          {sites > 1 && (
            <p className="mt-2 flex gap-3 text-soft">
              by{" "}
              {(["model", "site"] as const).map((one) => (
                <button
                  key={one}
                  type="button"
                  aria-pressed={one === by}
                  className={one === by ? "font-semibold text-ink" : "text-accent underline"}
                  onClick={() => turn(one)}
                >
                  {one}
                </button>
              ))}
            </p>
          )}
          {ages.data.rows.length > 0 && <Table ages={ages.data} by={by} look={look} onLook={onLook} />}
        </>
      )}
    </div>
  );
}

const SEVERAL: Record<string, string> = { memory: "memory modules", ssd: "SSDs", battery: "batteries", fan: "fans" };
const several = (kind: string): string => SEVERAL[kind] ?? KIND_NAMES[kind] ?? kind;

const sum = (numbers: number[]): number => numbers.reduce((whole, one) => whole + one, 0);

function Sentence({ ages, sites }: { ages: Ages; sites: number }) {
  const machines = sum(ages.rows.map((row) => sum(row.machines)));
  const old = sum(ages.rows.map((row) => sum(row.machines.slice(5))));
  const asked = ages.kinds
    .map((kind) => ({ kind, failures: askedOf(ages, kind) }))
    .filter((one): one is { kind: string; failures: number } => one.failures !== null);
  const whole = sum(asked.map((one) => one.failures));
  if (machines === 0) {
    return <p className="mt-1 font-serif text-[1.15rem]">No machine is on record here: import a list of them.</p>;
  }
  return (
    <p className="mt-1 max-w-[64ch] font-serif text-[1.15rem] leading-snug">
      <strong>{plural(machines, "machine")}</strong> in use{sites > 1 ? ` at ${figure(sites)} sites` : ""},{" "}
      {figure(old)} of them five years and older.{" "}
      {asked.length > 0 && (
        <>
          Of what is in them today about <strong>{figure(whole)} parts</strong> will fail within a year:{" "}
          {asked.map((one) => `${figure(one.failures)} ${several(one.kind)}`).join(", ")}.{" "}
        </>
      )}
      {ages.unsaid.length > 0 && (
        <span className="text-thin">
          Of {ages.unsaid.map(several).join(", ")} nobody can say yet: none was ever seen in service.
        </span>
      )}
      {ages.unrecorded > 0 && (
        <span className="text-thin">
          {" "}
          Of {plural(ages.unrecorded, "machine")} nothing of some kind is on record: what will fail in{" "}
          {ages.unrecorded === 1 ? "it" : "those"} is in no figure here.
        </span>
      )}
    </p>
  );
}

function askedOf(ages: Ages, kind: string): number | null {
  const of = ages.rows.map((row) => row.asks.find((one) => one.kind === kind)?.failures ?? null);
  return of.some((one) => one === null) ? null : sum(of.filter((one) => one !== null));
}

function Table({ ages, by, look, onLook }: Omit<AgeBandsProps, "sites"> & { ages: Ages; by: "model" | "site" }) {
  const [, changeAddress] = useAddress();
  const [told, setTold] = useState("");
  const most = Math.max(1, ...ages.rows.flatMap((row) => row.machines));
  const last = ages.bands.length - 1;
  const whole = ages.bands.map((_, band) => sum(ages.rows.map((row) => row.machines[band] ?? 0)));
  const choose = (key: string, band: number | null, name: string): void => {
    const youngest = band === null || band === 0 ? "" : String(band);
    const oldest = band === null || band === last ? "" : String(band + 1);
    setTold(`${name}${band === null ? "" : `, ${bandWords(band, band === last)} years`} in the list`);
    if (by === "model") onLook({ model: key, youngest, oldest, standing: "" });
    else {
      changeAddress({ site: key, youngest, oldest }, "replace");
    }
  };
  return (
    <div className="mt-3 overflow-x-auto">
      <table className="w-full">
        <caption className="sr-only">Machines by {by} and years of age, and parts expected to fail in a year</caption>
        <thead>
          <tr className="text-[0.9rem] text-soft">
            <td />
            <th scope="colgroup" colSpan={ages.bands.length + 1} className="border-b border-rule px-1">
              machines, by years since they went into service
            </th>
            <th scope="colgroup" colSpan={ages.kinds.length} className="border-b border-rule px-1 pl-3">
              will fail within a year
            </th>
          </tr>
          <tr className="border-b border-ink text-[0.93rem]">
            <th scope="col" className="pl-2">
              {by === "model" ? "Model" : "Site"}
            </th>
            {ages.bands.map((from, band) => (
              <th key={from} scope="col" className="px-1 text-right whitespace-nowrap">
                {bandWords(from, band === last)}
              </th>
            ))}
            <th scope="col" className="px-1 text-right">
              all
            </th>
            {ages.kinds.map((kind, place) => (
              <th key={kind} scope="col" className={`px-1 text-right ${place === 0 ? "pl-3" : ""}`}>
                {KIND_NAMES[kind] ?? kind}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ages.rows.map((row) => (
            <tr
              key={row.key || row.name}
              className={`border-b border-dotted border-rule ${look.model === row.key && by === "model" ? "bg-pick shadow-[inset_5px_0_0_var(--accent)]" : ""}`}
            >
              <th scope="row" className="py-0.5 pr-2 pl-2 font-normal">
                <button
                  type="button"
                  className="min-h-[24px] text-left hover:underline"
                  onClick={() => choose(row.key, null, row.name)}
                >
                  {row.name}
                </button>
              </th>
              {row.machines.map((machines, band) => (
                <td key={band} className="p-0 text-right">
                  {machines > 0 && (
                    <button
                      type="button"
                      aria-label={`${plural(machines, "machine")}, ${row.name}, ${bandWords(band, band === last)} years`}
                      className="min-h-[24px] w-full min-w-[26px] px-1 text-right hover:outline-1 hover:outline-ink"
                      style={{ background: shade(machines / most) }}
                      onClick={() => choose(row.key, band, row.name)}
                    >
                      {figure(machines)}
                    </button>
                  )}
                </td>
              ))}
              <td className="px-1 text-right font-semibold">{figure(sum(row.machines))}</td>
              {row.asks.map((one, place) => (
                <td key={one.kind} className={`px-1 text-right whitespace-nowrap ${place === 0 ? "pl-3" : ""}`}>
                  <Failing failures={one.failures} units={one.units} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr className="border-t border-ink font-semibold">
            <th scope="row" className="pl-2">
              All
            </th>
            {whole.map((machines, band) => (
              <td key={band} className="px-1 text-right">
                {machines ? figure(machines) : ""}
              </td>
            ))}
            <td className="px-1 text-right">{figure(sum(whole))}</td>
            {ages.kinds.map((kind, place) => (
              <td key={kind} className={`px-1 text-right ${place === 0 ? "pl-3" : ""}`}>
                <Failing failures={askedOf(ages, kind)} units={1} />
              </td>
            ))}
          </tr>
        </tfoot>
      </table>
      <p role="status" className="sr-only">
        {told}
      </p>
      <p className="mt-2 max-w-[70ch] text-[0.93rem] text-soft">
        First failures of what is in service today, at its own ages, under the fitted model of each kind (Rates). What
        replaces it, what is damaged, and draws without a fault found come on top (Outlook).
      </p>
    </div>
  );
}

function Failing({ failures, units }: { failures: number | null; units: number }) {
  if (failures === null) return <span className="text-thin">?</span>;
  if (units === 0) {
    return (
      <span className="text-soft">
        <span aria-hidden="true">–</span>
        <span className="sr-only">nothing on record</span>
      </span>
    );
  }
  return <>{failures < 10 ? figure(failures, 1) : figure(failures)}</>;
}

const shade = (share: number): string =>
  `color-mix(in srgb, var(--accent) ${Math.round(4 + 26 * share)}%, transparent)`;
