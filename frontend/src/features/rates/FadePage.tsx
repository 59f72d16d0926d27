import { Link, useNavigate, useParams } from "react-router";
import { figure, percent, plural } from "@/lib/format";
import { useWalk } from "@/lib/useWalk";
import { KIND_NAMES } from "@/lib/words";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { FadePlate } from "./FadePlate";
import { type FadeLine, useFade } from "./fade.queries";

/** Packs and drives that are read: how each part group fades, and who crosses when. */
export default function FadePage() {
  const { part: asked } = useParams();
  const found = useFade();
  const navigate = useNavigate();
  const parts = found.data?.parts ?? [];
  const chosen = parts.find((part) => part.number === asked) ?? parts[0];
  useWalk(
    parts.map((part) => part.number),
    chosen?.number ?? null,
    (number) => void navigate(`/rates/fade/${encodeURIComponent(number)}`),
  );
  if (found.isError) return <FailedToRead title="No fade" query={found} />;
  if (!found.data) return <Computing what="Following every pack and drive that is read" queryKey={["fade"]} />;
  return (
    <Spread
      name="fade"
      share={44}
      least={32}
      leftLabel="Parts"
      turned={asked}
      rightLabel="How it fades"
      left={<Parts parts={parts} chosen={chosen?.number} />}
      right={
        chosen ? (
          <FadePlate key={chosen.number} number={chosen.number} />
        ) : (
          <Nothing>
            No reading is on record. Packs and drives are read at the bench, by machines that report, or from a list:{" "}
            <Link className="text-accent underline" to="/import/lists">
              take a list
            </Link>
            .
          </Nothing>
        )
      }
    />
  );
}

function Parts({ parts, chosen }: { parts: FadeLine[]; chosen: string | undefined }) {
  const told = parts.filter((part) => part.usable > 0);
  const worn = told.reduce((sum, part) => sum + (part.expected ?? 0), 0);
  const due = told.reduce((sum, part) => sum + part.due, 0);
  const units = told.reduce((sum, part) => sum + part.usable, 0);
  return (
    <div className="p-4">
      <div className="flex items-baseline justify-between gap-3">
        <h1 className="text-[1.75rem]">Fade</h1>
        <Link className="text-accent underline" to="/rates">
          Rates
        </Link>
      </div>
      <p className="mt-1 max-w-[60ch] font-serif text-[1.2rem] leading-snug">
        {units === 0 ? (
          <strong className="text-thin">No part is read often enough yet: ages speak.</strong>
        ) : (
          <>
            Of {plural(units, "unit")} that readings speak for,{" "}
            <strong>{figure(worn, 1)} are expected to be worn</strong> within a year
            {due > 0 && `; ${plural(due, "is", "are")} below the threshold today`}.
          </>
        )}
      </p>
      <p className="text-soft">
        Three curves, averaged by what the readings say for each: straight on, faster below a level, faster after a time
        of each unit’s own. A part of which fewer than five units have three readings is taken together with others of
        its kind; of one that no reading tells of, ages speak.
      </p>
      <table className="mt-3 w-full">
        <thead>
          <tr className="border-b border-ink align-bottom">
            <th scope="col" className="py-0.5">
              Part
            </th>
            <th scope="col" className="text-right">
              Read
            </th>
            <th scope="col" className="text-right">
              Worn in a year
            </th>
            <th scope="col" className="text-right">
              Straight carries
            </th>
          </tr>
        </thead>
        <tbody>
          {parts.map((part) => (
            <tr
              key={part.number}
              aria-current={part.number === chosen ? "true" : undefined}
              className={`border-b border-dotted border-rule ${part.number === chosen ? "bg-pick" : ""}`}
            >
              <th scope="row" className="py-1 font-normal">
                <Link
                  className="code inline-block min-h-[25px] text-accent underline"
                  to={`/rates/fade/${encodeURIComponent(part.number)}`}
                >
                  {part.number}
                </Link>
                <span className="block text-[0.93rem] text-soft">{KIND_NAMES[part.kind] ?? part.kind}</span>
              </th>
              <td className="text-right">{figure(part.units)}</td>
              <td className="text-right">
                {part.expected === null ? <span className="text-soft">ages speak</span> : figure(part.expected, 1)}
              </td>
              <td className="text-right">{part.straight === null ? "" : percent(part.straight)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
