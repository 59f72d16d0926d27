import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { LifeBar } from "@/charts/LifeBar";
import { day, figure, plural } from "@/lib/format";
import { AIR_NAMES, COUNTED_NAMES, DUTY_NAMES, kindColour } from "@/lib/words";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing } from "@/ui/Notice";
import { usePoolLives } from "./rates.queries";

type Life = Schemas["LifeView"];

const SHOWN = 150;
const DAYS_A_YEAR = 365.25;
const years = (days: number): string => figure(days / DAYS_A_YEAR, 2);

/** Every life a pool's rate is counted from: when it came under observation, how it ended, and what it adds. */
export default function PoolLivesPage() {
  const { kind = "battery" } = useParams();
  const [asked] = useSearchParams();
  const pool = {
    part: asked.get("part") ?? "",
    model: asked.get("model") ?? "",
    duty: asked.get("duty") ?? "",
    air: asked.get("air") ?? "",
    ...(asked.get("lot") ? { lot: asked.get("lot") } : {}),
  };
  const found = usePoolLives(pool);
  if (found.isError) {
    return <FailedToRead title="No lives" query={found} />;
  }
  if (!found.data) return <Computing what="Reading every life of the pool" queryKey={["rates", "lives", pool]} />;
  const { lives, exposure_years, confirmed, open, left_out, before } = found.data;
  return (
    <article className="mx-auto max-w-[72rem] p-4">
      <p>
        <Link className="text-accent underline" to={`/rates/${kind}`}>
          Rates
        </Link>
      </p>
      <h1 className="text-[1.75rem]">
        <span className="code">{pool.part}</span> in {pool.model}
      </h1>
      <p className="text-soft">
        {DUTY_NAMES[pool.duty] ?? pool.duty}, {AIR_NAMES[pool.air] ?? pool.air}
        {pool.lot && `, lot of ${day(pool.lot)}`}
      </p>
      <p className="mt-1 font-serif text-[1.2rem] leading-snug">
        <strong>{plural(lives.length, "life", "lives")}</strong>, {figure(exposure_years, 1)} years under observation:{" "}
        <strong>{plural(confirmed, "confirmed failure")}</strong>, {plural(open, "open finding")}.
      </p>
      <WhatCounts lives={lives} leftOut={left_out} before={before} />
      {lives.length === 0 ? (
        <Nothing>No part of this pool is on record.</Nothing>
      ) : (
        <Lives lives={lives} colour={kindColour(kind)} />
      )}
    </article>
  );
}

interface WhatCountsProps {
  lives: Life[];
  leftOut: number;
  before: number;
}

/** How a life counts, and which are left out. */
function WhatCounts({ lives, leftOut, before }: WhatCountsProps) {
  return (
    <p className="text-soft">
      {leftOut === 0
        ? "None is left out."
        : leftOut === 1
          ? "One carries nothing: it ended before it came under observation."
          : `${figure(leftOut)} carry nothing: they ended before they came under observation.`}{" "}
      A life counts from the day its part had been in for two weeks, or from the day the log of its site began. Open
      findings count with the share of their kind. A failure that a check found lies between two ages.
      {before > 0 &&
        ` ${plural(before, "life", "lives")} that ended before an accepted alarm’s day ${before === 1 ? "is" : "are"} not among them.`}
      {lives.some((life) => life.age_span > 0) &&
        " Of some nobody knows when they were fitted: they count at every age they may have, weighed by how likely a part lasts that long; the bar shows the greatest."}
    </p>
  );
}

function Lives({ lives, colour }: { lives: Life[]; colour: string }) {
  const [all, setAll] = useState(false);
  const rows = all ? lives : lives.slice(0, SHOWN);
  const oldest = Math.max(...lives.map((life) => life.exit_age), 365);
  return (
    <>
      <table className="mt-3 w-full">
        <thead>
          <tr className="border-b border-ink align-bottom">
            <th scope="col" className="py-1 pr-3">
              Machine
            </th>
            <th scope="col" className="py-1 pr-3">
              Site
            </th>
            <th scope="col" className="py-1 pr-3">
              Part
            </th>
            <th scope="col" className="py-1 pr-3">
              Fitted
            </th>
            <th scope="col" className="py-1 pr-3 text-right">
              From age, years
            </th>
            <th scope="col" className="py-1 pr-3 text-right">
              To age, years
            </th>
            <th scope="col" className="py-1 pr-3">
              <span className="sr-only">Under observation</span>
              <span aria-hidden className="text-[0.88rem] font-normal text-soft">
                0 to {figure(oldest / DAYS_A_YEAR, 1)} years of age
              </span>
            </th>
            <th scope="col" className="py-1">
              Counted as
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((life) => (
            <tr
              key={`${life.tag}-${life.fitted_on}-${life.part}-${life.exit_age}`}
              className="border-b border-dotted border-rule"
            >
              <th scope="row" className="py-0.5 pr-3 font-normal">
                <Link className="code text-accent underline" to={`/ledger?q=${encodeURIComponent(life.tag)}`}>
                  {life.tag}
                </Link>
              </th>
              <td className="pr-3">{life.site}</td>
              <td className="code pr-3">{life.part}</td>
              <td className="pr-3 whitespace-nowrap">
                {day(life.fitted_on)}
                {life.age_span > 0 && <span className="block text-[0.9rem] text-soft">or later</span>}
              </td>
              <td className="pr-3 text-right whitespace-nowrap">
                {life.age_span > 0 && `${years(life.from_age - life.age_span)} to `}
                {years(life.from_age)}
              </td>
              <td className="pr-3 text-right whitespace-nowrap">
                {life.age_span > 0 && `${years(life.exit_age - life.age_span)} to `}
                {life.seen_good !== null && `${years(life.seen_good)} to `}
                {years(life.exit_age)}
              </td>
              <td className="pr-3">
                <LifeBar
                  from={life.from_age}
                  to={life.exit_age}
                  seenGood={life.seen_good}
                  most={oldest}
                  counted={life.counted_as}
                  colour={colour}
                />
              </td>
              <td>
                {life.incident_id === null ? (
                  (COUNTED_NAMES[life.counted_as] ?? life.counted_as)
                ) : (
                  <Link className="text-accent underline" to={`/ledger/${life.incident_id}`}>
                    {COUNTED_NAMES[life.counted_as] ?? life.counted_as}
                  </Link>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {lives.length > SHOWN && !all && (
        <button type="button" className="mt-2 text-accent underline" onClick={() => setAll(true)}>
          the other {lives.length - SHOWN}
        </button>
      )}
    </>
  );
}
