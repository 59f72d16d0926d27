import type { ReactNode } from "react";
import { figure, plural } from "@/lib/format";
import { KIND_NAMES, minutesWords } from "@/lib/words";
import type { ModelPageData } from "./models.queries";
import { FactTable } from "./PositionCard";

/** What the page says of the whole machine: open facts first, then options, how it opens, claims, and its profile. */
export function PageFacts({ page }: { page: ModelPageData }) {
  return (
    <div className="mt-5 grid grid-cols-2 gap-x-6 gap-y-4 border-t-4 border-double border-ink pt-3 max-[1100px]:grid-cols-1">
      <Block title="Open facts" aside={page.open_facts.length ? "asked at the next opening" : "none"}>
        <ul className="text-[0.95rem]">
          {page.open_facts.map((fact) => (
            <li key={`${fact.where}${fact.text}`} className="border-l-4 border-thin bg-pick px-2 py-0.5 [&+li]:mt-1">
              {fact.text}: <span className="text-soft">{fact.cure}</span>
            </li>
          ))}
        </ul>
      </Block>
      <Block title="How it opens">
        <ul className="list-outside list-disc pl-4 text-[0.95rem]">
          <li className={page.opening.known ? "" : "text-thin"}>{page.opening.start}</li>
          {page.opening.clip_rows.length > 0 && <li>Clips: {page.opening.clip_rows.join(", ")}</li>}
          {page.opening.hooks && <li>Hooks slide towards the {page.opening.hooks}</li>}
          <li>{page.opening.screws}</li>
          {page.opening.feet.map((foot) => (
            <li key={foot.name}>
              {foot.name}
              {foot.unlike && ", not like the others"}
              {foot.hides > 0 && `, hides ${plural(foot.hides, "screw")}: ${foot.advice}`}
            </li>
          ))}
        </ul>
      </Block>
      <Block title="Serviceability">
        <ul className="text-[0.95rem]">
          {page.profile.access.map((item) => (
            <li key={item.kind} className="flex justify-between border-b border-dotted border-rule">
              <span>{KIND_NAMES[item.kind]}</span>
              <span>
                {item.minutes === null
                  ? "not alone"
                  : `${minutesWords(item.minutes)}, ${plural(item.steps ?? 0, "step")}`}
              </span>
            </li>
          ))}
          <Line name="Soldered">{page.profile.soldered.join(", ") || "nothing"}</Line>
          <Line name="Only in an assembly">{page.profile.escalated.join(", ") || "nothing"}</Line>
          <Line name="Captive screws">{page.profile.screws}</Line>
          <Line name="One-way steps">
            {page.profile.one_way.length ? page.profile.one_way.join("; ") : "none by default"}
          </Line>
        </ul>
      </Block>
      <Block title="Options and claims">
        <ul className="text-[0.95rem]">
          {page.options.map((option) => (
            <li key={option.name} className="border-b border-dotted border-rule">
              <strong>{option.name.replaceAll("_", " ")}:</strong>{" "}
              {option.values.map((value) => `${value.value} ${figure(value.machines)}`).join(", ")}
              {option.unknown > 0 && `, not looked at ${figure(option.unknown)}`}
              <span className={option.agrees === "no" ? "text-short" : "text-soft"}> ({option.reason})</span>
              {option.read && <span className="block text-soft">read {option.read}</span>}
            </li>
          ))}
          {page.claims.map((claim) => (
            <li key={claim.text} className="border-b border-dotted border-rule">
              {claim.text}:{" "}
              <span className={claim.state.startsWith("claimed") ? "text-thin" : "text-covered"}>{claim.state}</span>
            </li>
          ))}
          {page.notes.map((note) => (
            <li key={note} className="border-b border-dotted border-rule text-soft">
              {note}
            </li>
          ))}
          {page.options.length + page.claims.length + page.notes.length === 0 && <li className="text-soft">none</li>}
        </ul>
      </Block>
      {page.facts.length > 0 && (
        <div className="col-span-full">
          <FactTable title="Of the whole machine" facts={page.facts} />
        </div>
      )}
    </div>
  );
}

function Block({ title, aside, children }: { title: string; aside?: string; children: ReactNode }) {
  return (
    <section className="min-w-0">
      <h2 className="flex items-baseline justify-between border-b border-rule pb-0.5 font-sans text-base">
        {title} {aside && <span className="font-normal text-soft">{aside}</span>}
      </h2>
      <div className="pt-1">{children}</div>
    </section>
  );
}

function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <li className="flex justify-between gap-4 border-b border-dotted border-rule">
      <span className="whitespace-nowrap">{name}</span>
      <span className="text-right">{children}</span>
    </li>
  );
}
