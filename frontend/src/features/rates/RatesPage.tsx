import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { RateInterval } from "@/charts/RateInterval";
import { counted, day, figure, perHundred, plural } from "@/lib/format";
import { useKeys } from "@/lib/useKeys";
import { useWalk } from "@/lib/useWalk";
import { AIR_NAMES, DUTY_NAMES, KIND_NAMES, KINDS, kindColour } from "@/lib/words";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { Spread } from "@/ui/Spread";
import { KindPlate } from "./KindPlate";
import { type KindRates, useKindRates } from "./rates.queries";
import { StartingPoint } from "./StartSheet";

const SHOWN = 60;

/** The rates tab: the pools of a kind as a caterpillar on the left, how the kind dies on the right. */
export default function RatesPage() {
  const { kind: asked } = useParams();
  const kind = KINDS.find((name) => name === asked) ?? "battery";
  const rates = useKindRates(kind);
  const navigate = useNavigate();
  const [tables, setTables] = useState(false);
  useWalk([...KINDS], kind, (next) => void navigate(`/rates/${next}`));
  useKeys({ t: () => setTables((before) => !before) });
  if (rates.isError) {
    return (
      <div className="p-4">
        <h1 className="text-[1.75rem]">Rates</h1>
        <StartingPoint kind={kind} />
        <FailedToRead title="No rates" query={rates} />
      </div>
    );
  }
  if (rates.data === null) return <NothingSeen kind={kind} />;
  if (!rates.data) return <Computing what="Reading every life in the log" queryKey={["rates", "kind", kind]} />;
  return (
    <Spread
      name="rates"
      share={55}
      least={36}
      leftLabel="Pools"
      turned={asked}
      rightLabel="Kind"
      left={<Pools kind={kind} rates={rates.data} />}
      right={<KindPlate rates={rates.data} tables={tables} onTables={() => setTables(!tables)} />}
    />
  );
}

/** Nothing of the kind was ever seen in service: what would change that. */
function NothingSeen({ kind }: { kind: string }) {
  return (
    <div className="p-4">
      <h1 className="text-[1.75rem]">Rates</h1>
      <Kinds kind={kind} />
      <StartingPoint kind={kind} />
      <p className="mt-3 max-w-[60ch] font-serif text-[1.2rem] leading-snug">
        <strong className="text-thin">
          No {(KIND_NAMES[kind] ?? kind).toLowerCase()} was ever seen in service, so nobody can say how they die.
        </strong>
      </p>
      <p className="text-soft">
        A list of machines with what they hold, or the old log, changes that:{" "}
        <Link className="text-accent underline" to="/import/lists">
          take a list
        </Link>
        .
      </p>
    </div>
  );
}

const livesOf = ({ part, model, duty, air, lot }: KindRates["pools"][number]): string =>
  new URLSearchParams({ part, model, duty, air, ...(lot ? { lot } : {}) }).toString();

function Kinds({ kind }: { kind: string }) {
  return (
    <nav aria-label="Kinds" className="mt-1 flex gap-2">
      {KINDS.map((name) => (
        <Link
          key={name}
          to={`/rates/${name}`}
          aria-current={name === kind ? "page" : undefined}
          className={`rounded-[3px] border px-3 py-1 ${name === kind ? "border-ink bg-pick font-semibold" : "border-rule bg-leaf"}`}
        >
          {KIND_NAMES[name]}
        </Link>
      ))}
    </nav>
  );
}

function Pools({ kind, rates }: { kind: string; rates: KindRates }) {
  const [all, setAll] = useState(false);
  const live = rates.pools.filter((pool) => pool.units > 0 && pool.shrunk);
  const rows = all ? live : live.slice(0, SHOWN);
  const most = Math.max(...live.map((pool) => pool.shrunk?.high ?? 0), 0.001) * 1.1;
  const colour = kindColour(kind);
  return (
    <div className="p-4">
      <div className="flex items-baseline justify-between gap-3">
        <h1 className="text-[1.75rem]">Rates</h1>
        <span className="flex gap-4">
          <Link className="text-accent underline" to="/rates/alarms">
            Alarms
          </Link>
          <Link className="text-accent underline" to="/rates/fade">
            Fade
          </Link>
          <Link className="text-accent underline" to="/rates/calibration">
            How well the forecasts have done
          </Link>
          <Link className="text-accent underline" to="/rates/data">
            Data check
          </Link>
        </span>
      </div>
      <Kinds kind={kind} />
      <StartingPoint kind={kind} />
      <p className="mt-2 text-soft">
        Failure rates per 100 a year at the present ages, worst first: ring and thin line, one constant rate from the
        pool's own record; disc and thick line once it borrows from its kind. 90% intervals, 0 to {figure(most * 100)}.
        A model leads to the lives behind its rate.
      </p>
      <p className="text-soft">
        {rates.left_out === 0 ? (
          "Every life of this kind on record is counted."
        ) : (
          <>
            <Link className="text-accent underline" to="/rates/data">
              {plural(rates.left_out, "life", "lives")}
            </Link>{" "}
            of this kind {rates.left_out === 1 ? "carries" : "carry"} nothing into these rates.
          </>
        )}
        {rates.age_unknown > 0 &&
          ` Of ${plural(rates.age_unknown, "unit")} in service nobody knows since when: each counts at every age it may have, weighed by how likely a part lasts that long.`}
      </p>
      <table className="mt-2 w-full">
        <thead>
          <tr className="border-b border-ink align-bottom">
            <th scope="col" className="py-1 pr-3">
              Part, model
            </th>
            <th scope="col" className="pr-3">
              Duty, air
            </th>
            <th scope="col" className="pr-3 text-right">
              Units
            </th>
            <th scope="col" className="pr-3 text-right">
              Failed
            </th>
            <th scope="col">
              <span className="sr-only">Intervals</span>
            </th>
            <th scope="col" className="text-right">
              Rate
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((pool) => (
            <tr
              key={`${pool.part}|${pool.model}|${pool.duty}|${pool.air}|${pool.lot}`}
              className="border-b border-dotted border-rule"
            >
              <td className="py-1 pr-3">
                <Link className="code inline-block min-h-[25px] text-accent underline" to={`/outlook/${pool.part}`}>
                  {pool.part}
                </Link>
                <span className="block text-[0.93rem]">
                  <Link
                    className="inline-block min-h-[25px] text-soft underline decoration-dotted underline-offset-2"
                    to={`/rates/${kind}/lives?${livesOf(pool)}`}
                    aria-label={`Lives of ${pool.part} in ${pool.model}, ${DUTY_NAMES[pool.duty]}, ${AIR_NAMES[pool.air]}`}
                  >
                    {pool.model}
                  </Link>
                  {pool.lot && <span className="block text-soft">lot of {day(pool.lot)}</span>}
                </span>
              </td>
              <td className="pr-3 text-[0.93rem]">
                {DUTY_NAMES[pool.duty]}
                <span className="block text-soft">{AIR_NAMES[pool.air]}</span>
              </td>
              <td className="pr-3 text-right">{pool.units}</td>
              <td className="pr-3 text-right">{counted(pool.failures)}</td>
              <td>
                <RateInterval
                  raw={
                    pool.raw === null ? null : { rate: pool.raw, low: pool.raw_low, high: pool.raw_high ?? most * 2 }
                  }
                  shrunk={pool.shrunk}
                  most={most}
                  colour={colour}
                />
              </td>
              <td className="text-right font-semibold whitespace-nowrap">
                {pool.shrunk && perHundred(pool.shrunk.rate)}
                <span className="block text-[0.88rem] font-normal text-soft">
                  {pool.shrunk && `${perHundred(pool.shrunk.low)} – ${perHundred(pool.shrunk.high)}`}
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {live.length > SHOWN && !all && (
        <button type="button" className="mt-2 text-accent underline" onClick={() => setAll(true)}>
          the other {live.length - SHOWN}
        </button>
      )}
    </div>
  );
}
