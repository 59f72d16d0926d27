import { useState } from "react";
import { useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { day, figure, plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { Waiting } from "@/ui/Notice";
import { AboutSheet, SiteSheet, SupplierSheet } from "./CompanySheets";
import { type Company, useCompany } from "./company.queries";
import { WholeCompany } from "./WholeCompany";

type Open = { what: "about" } | { what: "site"; code: string | null } | { what: "supplier"; id: number | null } | null;

const AIR: Record<string, string> = { office: "office air", salt: "salt air", dust: "dust" };

/** What the company is called, where its machines stand and who sells it parts: read by all, kept up by leads. */
export default function CompanyPage() {
  const session = useOutletContext<Schemas["SessionState"]>();
  const company = useCompany();
  const [open, setOpen] = useState<Open>(null);
  const lead = session.user?.role === "lead";
  if (company.isError) {
    return <FailedToRead title="Not to be seen" query={company} />;
  }
  if (!company.data) return <Waiting what="Reading the company" />;
  const { fields, sites, suppliers, changes } = company.data;
  const close = (): void => setOpen(null);
  return (
    <div className="min-h-0 flex-1 overflow-auto p-4">
      <h1 className="text-[1.75rem]">{fields.name || "The company"}</h1>
      <p className="mt-1 max-w-[70ch] font-serif text-[1.15rem] leading-snug">
        Counts in {fields.currency}, days by the clock of {fields.time_zone}; {plural(sites.length, "site")},{" "}
        {plural(suppliers.length, "supplier")}.{" "}
        {lead && (
          <button
            type="button"
            className="font-sans text-base text-accent underline"
            onClick={() => setOpen({ what: "about" })}
          >
            change
          </button>
        )}
      </p>
      <div className="grid max-w-[1180px] gap-x-10 lg:grid-cols-2">
        <Sites company={company.data} lead={lead} onOpen={(code) => setOpen({ what: "site", code })} />
        <Suppliers company={company.data} lead={lead} onOpen={(id) => setOpen({ what: "supplier", id })} />
      </div>
      <section className="mt-6 max-w-[900px]" aria-label="Changed lately">
        <h2 className="border-b border-ink pb-0.5 font-sans text-[1rem]">Changed lately</h2>
        {changes.length === 0 && (
          <p className="mt-1 text-soft">Nothing yet. What is changed stays here with who did it.</p>
        )}
        <ul>
          {changes.map(({ subject, change }) => (
            <li
              key={`${subject}${change.changed_on}${change.field}${change.before}${change.after}`}
              className="border-b border-dotted border-rule py-0.5"
            >
              {day(change.changed_on)}, {subject}: {change.field} {change.before || "none"} → {change.after}
              {change.author ? `, ${change.author}` : ""}
            </li>
          ))}
        </ul>
      </section>
      {lead && <WholeCompany empty={sites.length === 0 && suppliers.length === 0} />}
      {open?.what === "about" && <AboutSheet company={company.data} onClose={close} />}
      {open?.what === "site" && (
        <SiteSheet
          site={sites.find((one) => one.code === open.code)}
          zone={fields.time_zone}
          today={session.as_of}
          onClose={close}
        />
      )}
      {open?.what === "supplier" && (
        <SupplierSheet supplier={suppliers.find((one) => one.id === open.id)} onClose={close} />
      )}
    </div>
  );
}

interface ListProps<Key> {
  company: Company;
  lead: boolean;
  onOpen: (key: Key | null) => void;
}

function Sites({ company, lead, onOpen }: ListProps<string>) {
  return (
    <section className="mt-4" aria-label="Sites">
      <h2 className="font-sans text-[1rem] font-semibold">Sites</h2>
      <table className="w-full">
        <thead>
          <tr className="border-b border-ink">
            <th scope="col">Site</th>
            <th scope="col" className="pr-3 text-right">
              Machines
            </th>
            <th scope="col">Repairs written down since</th>
            <th scope="col">
              <span className="sr-only">Act</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {company.sites.map((site) => (
            <tr key={site.code} className="border-b border-dotted border-rule align-top">
              <th scope="row" className="py-1 pr-3 font-normal">
                <span className="font-semibold">{site.fields.name}</span> <span className="code">{site.code}</span>
                <span className="block text-[0.9rem] text-soft">
                  {AIR[site.fields.environment]}
                  {site.fields.time_zone !== company.fields.time_zone && `, ${site.fields.time_zone}`}
                  {site.is_depot && ", orders are delivered here"}
                </span>
              </th>
              <td className="py-1 pr-3 text-right">{figure(site.machines)}</td>
              <td className="py-1 pr-3">{day(site.fields.log_began_on)}</td>
              <td className="py-1 text-right">
                {lead && <Change what={site.fields.name} onClick={() => onOpen(site.code)} />}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {company.sites.length === 0 && (
        <p className="mt-1 text-soft">No site yet. The first is where orders are delivered to.</p>
      )}
      {lead && (
        <p className="mt-2">
          <Button onClick={() => onOpen(null)}>Add a site</Button>
        </p>
      )}
    </section>
  );
}

function Suppliers({ company, lead, onOpen }: ListProps<number>) {
  return (
    <section className="mt-4" aria-label="Suppliers">
      <h2 className="font-sans text-[1rem] font-semibold">Suppliers</h2>
      <table className="w-full">
        <thead>
          <tr className="border-b border-ink">
            <th scope="col">Supplier</th>
            <th scope="col" className="pr-3 text-right">
              Parts
            </th>
            <th scope="col">Days it states</th>
            <th scope="col">
              <span className="sr-only">Act</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {company.suppliers.map((one) => (
            <tr key={one.id} className="border-b border-dotted border-rule align-top">
              <th scope="row" className="py-1 pr-3 font-semibold">
                {one.fields.name}
              </th>
              <td className="py-1 pr-3 text-right">{figure(one.parts)}</td>
              <td className="py-1 pr-3">{leadWords(one.fields.lead_time)}</td>
              <td className="py-1 text-right">
                {lead && <Change what={one.fields.name} onClick={() => onOpen(one.id)} />}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {company.suppliers.length === 0 && <p className="mt-1 text-soft">No supplier yet.</p>}
      {lead && (
        <p className="mt-2">
          <Button onClick={() => onOpen(null)}>Add a supplier</Button>
        </p>
      )}
    </section>
  );
}

/** 18:0.25; 21:0.75 as people read it. */
function leadWords(text: string): string {
  const entries = text.split(";").map((piece) => piece.trim().split(":"));
  if (entries.length === 1) return entries[0]?.[0] ?? text;
  return entries.map(([days, weight]) => `${days} (${figure(Number(weight) * 100)}%)`).join(", ");
}

function Change({ what, onClick }: { what: string; onClick: () => void }) {
  return (
    <button
      type="button"
      className="min-h-[25px] text-accent underline"
      aria-label={`Change ${what}`}
      onClick={onClick}
    >
      change
    </button>
  );
}
