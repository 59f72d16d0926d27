import type { ReactNode } from "react";
import { figure, plural } from "@/lib/format";
import { KIND_NAMES } from "@/lib/words";
import type { ModelPageData } from "./models.queries";
import { FactTable } from "./PositionCard";

const VISIT = 3;

/** Something to settle: what is open, what an answer decides, and how it is got. */
function Question({ fact }: { fact: ModelPageData["open_facts"][number] }) {
  const tone = fact.stake === "danger" ? "border-short" : fact.stake === "record" ? "border-rule" : "border-thin";
  return (
    <li className={`border-l-4 bg-pick px-2 py-0.5 [&+li]:mt-1 ${tone}`}>
      {fact.stake === "danger" && <strong className="text-short">danger: </strong>}
      {fact.text}: <span className="text-soft">{fact.cure}</span>
      {fact.worth && <span className="block font-semibold">{fact.worth}</span>}
    </li>
  );
}

/** What the page says of the whole machine: open facts first, then options, how it opens, claims, and its profile. */
export function PageFacts({ page }: { page: ModelPageData }) {
  return (
    <div className="mt-5 grid grid-cols-2 gap-x-6 gap-y-4 border-t-4 border-double border-ink pt-3 max-[1100px]:grid-cols-1">
      <Block
        title="Questions for the next visit"
        aside={page.open_facts.length ? `${plural(page.open_facts.length, "open fact")}` : "nothing is open"}
      >
        <ul className="text-[0.95rem]">
          {page.open_facts.slice(0, VISIT).map((fact) => (
            <Question key={`${fact.where}${fact.text}`} fact={fact} />
          ))}
        </ul>
        {page.open_facts.length > VISIT && (
          <details className="mt-1">
            <summary className="cursor-pointer text-accent underline">
              {plural(page.open_facts.length - VISIT, "question")} more, worth less
            </summary>
            <ul className="mt-1 text-[0.95rem]">
              {page.open_facts.slice(VISIT).map((fact) => (
                <Question key={`${fact.where}${fact.text}`} fact={fact} />
              ))}
            </ul>
          </details>
        )}
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
              {foot.hides && `, hides ${foot.hides} ${foot.hides === "1" ? "screw" : "screws"}: ${foot.advice}`}
            </li>
          ))}
        </ul>
      </Block>
      <Block title="Serviceability">
        <ul className="text-[0.95rem]">
          {page.profile.access.map((item) => (
            <li key={item.kind} className="flex justify-between border-b border-dotted border-rule">
              <span>{KIND_NAMES[item.kind]}</span>
              <span className={item.words === "way not known" ? "text-thin" : ""}>{item.words}</span>
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
