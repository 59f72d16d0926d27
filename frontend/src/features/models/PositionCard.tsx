import { Link } from "react-router";
import { day, figure, perHundred } from "@/lib/format";
import { GRADE_NAMES, HELD_NAMES } from "@/lib/words";
import { Button } from "@/ui/Button";
import type { ModelPageData, NamedFacts, PositionDetail } from "./models.queries";
import { useRates } from "./models.queries";

export interface PositionCardProps {
  page: ModelPageData;
  position: PositionDetail;
  onFits: () => void;
  onMemory: () => void;
  onDrive: () => void;
}

/** All that is known of the position chosen, each fact with its evidence, and the parts fitted there now. */
export function PositionCard({ page, position, onFits, onMemory, onDrive }: PositionCardProps) {
  const assembly = page.positions.find((entry) => entry.key === position.reached);
  return (
    <section className="mt-5 border-t-4 border-double border-ink pt-2">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 className="text-[1.25rem]">{position.label}</h2>
        <p className="text-soft">
          {HELD_NAMES[position.serviceability]}
          {position.held_doubt && <span className="text-thin"> ({position.held_doubt})</span>}
          {position.when && `, only with ${position.when}`}
          {position.label_place && ` · label ${position.label_place}`}
          {assembly && assembly.key !== position.key && ` · comes with ${assembly.label.toLowerCase()}`}
        </p>
        <span className="no-print ml-auto flex gap-2">
          <Button onClick={onFits}>What fits</Button>
          {position.kind === "memory" && <Button onClick={onMemory}>Plan memory</Button>}
          {position.kind === "ssd" && <Button onClick={onDrive}>Plan drive</Button>}
        </span>
      </div>
      <div className="mt-2 grid grid-cols-2 gap-x-6 max-[1100px]:grid-cols-1">
        <FactTable title="Takes" facts={position.facts} />
        <div>
          {position.fitted_facts.length > 0 && <FactTable title="As delivered" facts={position.fitted_facts} />}
          <FittedTable page={page} position={position} />
          {position.strings.length > 0 && (
            <p className="mt-2">
              <strong>Written on it:</strong>{" "}
              {position.strings.map((item, place) => (
                <span key={item.text}>
                  {place > 0 && ", "}
                  <span className="code">{item.text}</span> ({item.role.replaceAll("_", " ")})
                </span>
              ))}
              .{" "}
              <span className={position.order_code?.startsWith("which") ? "text-thin" : ""}>{position.order_code}</span>
            </p>
          )}
          {position.carries_over.length > 0 && (
            <p className="mt-2">
              <strong>Carries over from the old part:</strong> {position.carries_over.join(", ")}.
            </p>
          )}
          {position.photos.map((photo) => (
            <img
              key={photo}
              src={`/api/v1/photos/${photo}.png`}
              alt={`${position.label} as it was seen`}
              className="mt-2 max-h-40"
            />
          ))}
        </div>
      </div>
    </section>
  );
}

export function FactTable({ title, facts }: { title: string; facts: NamedFacts[] }) {
  if (facts.length === 0) return <p className="text-soft">{title}: nothing is recorded yet.</p>;
  return (
    <table className="w-full text-[0.93rem]">
      <thead>
        <tr className="border-b border-rule">
          <th scope="col" className="py-0.5">
            {title}
          </th>
          <th scope="col">Value</th>
          <th scope="col">Evidence</th>
        </tr>
      </thead>
      <tbody>
        {facts.flatMap((fact) =>
          fact.statements.map((item, place) => (
            <tr
              key={`${fact.name}-${item.source}-${item.value}`}
              className="border-b border-dotted border-rule align-baseline"
            >
              <th scope="row" className="py-0.5 pr-2 font-normal">
                {place === 0 ? fact.label : ""}
              </th>
              <td
                className={`pr-2 ${place === 0 || item.when ? "font-semibold" : "text-soft line-through decoration-1"}`}
              >
                {item.value}
                {item.when && <span className="block font-normal text-soft">with {item.when}</span>}
              </td>
              <td className="text-soft">
                {GRADE_NAMES[item.grade]}, {item.source}, {item.date ? day(item.date) : "on a day nobody knows"}
                {item.inherited_from && <span className="text-thin"> · taken over from {item.inherited_from}</span>}
                {item.photos.map((photo) => (
                  <a key={photo} className="ml-1 text-accent underline" href={`/api/v1/photos/${photo}.png`}>
                    photo
                  </a>
                ))}
              </td>
            </tr>
          )),
        )}
      </tbody>
    </table>
  );
}

function FittedTable({ page, position }: { page: ModelPageData; position: PositionDetail }) {
  const rates = useRates(page.model_id);
  if (position.fitted.length === 0) return <p className="mt-2 text-soft">No part is logged in this position.</p>;
  return (
    <table className="mt-2 w-full text-[0.93rem]">
      <thead>
        <tr className="border-b border-rule">
          <th scope="col" className="py-0.5">
            Fitted now
          </th>
          <th scope="col" className="text-right">
            Units
          </th>
          <th scope="col" className="text-right">
            Failures a year, of 100
          </th>
          <th scope="col" className="text-right">
            On hand
          </th>
        </tr>
      </thead>
      <tbody>
        {position.fitted.map((part) => {
          const known = rates?.get(part.part_number);
          return (
            <tr key={part.part_number} className="border-b border-dotted border-rule">
              <th scope="row" className="py-0.5 font-normal">
                {known?.risk ? (
                  <Link className="code text-accent underline" to={`/outlook/${part.part_number}`}>
                    {part.part_number}
                  </Link>
                ) : (
                  <span className="code">{part.part_number}</span>
                )}{" "}
                <span className="text-soft">{part.part_name}</span>
              </th>
              <td className="text-right">{figure(part.units)}</td>
              <td className="text-right">{known?.rate ? perHundred(known.rate) : rates ? "-" : "…"}</td>
              <td className="text-right">
                {figure(part.on_hand)}
                {known?.risk && known.risk !== "fine" && (
                  <span className={`ml-1 ${known.risk === "waiting" ? "text-short" : "text-thin"}`}>{known.risk}</span>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
