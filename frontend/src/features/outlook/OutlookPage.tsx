import { useMemo, useRef, useState } from "react";
import { Link, useLocation, useNavigate, useOutletContext, useParams } from "react-router";
import type { Schemas } from "@/api/client";
import { plural } from "@/lib/format";
import { playedWords, trust } from "@/lib/trust";
import { useSite } from "@/lib/useSite";
import { useWalk } from "@/lib/useWalk";
import { KINDS } from "@/lib/words";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { AlarmStrip } from "./AlarmStrip";
import { Due } from "./Due";
import { Others } from "./Others";
import { type Outlook, useOutlook, useRehearsed, useTrust } from "./outlook.queries";
import { PartTable } from "./PartTable";
import { PlatePage } from "./PlatePage";
import { Settings } from "./Settings";
import { oneCarrier, sentence } from "./sentence";

type Session = Schemas["SessionState"];

/** How trustworthy the forecasts have been, once the past has been forecast; nothing before. */
function Trust() {
  const words = trust(useTrust().data);
  const played = playedWords(useRehearsed().data);
  return (
    <>
      {words && (
        <Link className="text-accent underline" to="/rates/calibration">
          {words}
        </Link>
      )}
      {words && played && "; "}
      {played && (
        <Link className="text-accent underline" to="/outlook/rehearsal">
          {played}
        </Link>
      )}
    </>
  );
}

function Head({ outlook, sites }: { outlook: Outlook; sites: Session["sites"] }) {
  const words = sentence(outlook, oneCarrier(sites));
  const site = outlook.site ? `?site=${encodeURIComponent(outlook.site)}` : "";
  return (
    <header className="px-4 pt-4">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="mr-auto text-[1.75rem]">Outlook</h1>
        <Link className="text-accent underline" to={`/outlook/what-if${site}`}>
          What if
        </Link>
        <Link className="text-accent underline" to="/outlook/rehearsal">
          Rehearsal
        </Link>
        <Link className="text-accent underline" to="/outlook/money">
          Money
        </Link>
      </div>
      <p className="mt-1 max-w-[60ch] font-serif text-[1.2rem] leading-snug">
        {words.todo ? (
          <>
            <strong>{words.todo.join(", ")}</strong>; {words.risk}.
          </>
        ) : (
          outlook.lines.length > 0 && <strong className="text-thin">Nothing can be forecast yet.</strong>
        )}
      </p>
      <AlarmStrip />
      {outlook.stated.length > 0 && (
        <p className="max-w-[70ch] text-soft">
          Begins from what is{" "}
          <Link className="text-accent underline" to="/rates">
            believed
          </Link>
          : {outlook.stated.join("; ")}.
        </p>
      )}
      {outlook.unsaid.map((item) => (
        <p key={item.what} className="max-w-[70ch] text-thin">
          Of {plural(item.parts, "stock part")} nothing can be said about {item.what}: {item.why}. What it takes:{" "}
          {item.cure}.
        </p>
      ))}
      {outlook.unrecorded > 0 && (
        <p className="text-[0.93rem] text-thin">
          In{" "}
          <Link className="text-accent underline" to="/rates/data/unrecorded">
            {plural(outlook.unrecorded, "machine")}
          </Link>{" "}
          no part of some kind is on record: what they hold is in no figure here.
        </p>
      )}
      <p className="text-[0.93rem] text-soft">
        {words.failing} <Trust />
      </p>
    </header>
  );
}

export function OutlookPage() {
  const session = useOutletContext<Session>();
  const [site] = useSite();
  const { number } = useParams();
  const [kind, setKind] = useState("");
  const navigate = useNavigate();
  const { search } = useLocation();
  const index = useRef<HTMLDivElement>(null);
  const outlook = useOutlook(site);

  const lines = useMemo(() => {
    const found = outlook.data?.lines ?? [];
    return KINDS.flatMap((name) => (kind && kind !== name ? [] : found.filter((line) => line.kind === name)));
  }, [outlook.data, kind]);

  const open = (chosen: string): void => {
    navigate({ pathname: `/outlook/${encodeURIComponent(chosen)}`, search });
    index.current?.querySelector(`[data-part="${chosen}"]`)?.scrollIntoView({ block: "nearest" });
  };
  const numbers = useMemo(() => lines.map((line) => line.number), [lines]);
  useWalk(numbers, number ?? null, open);

  if (outlook.isError) {
    return <FailedToRead title="The outlook cannot be shown" query={outlook} />;
  }
  if (!outlook.data) return <Computing what="Computing the outlook" queryKey={["outlook", site]} />;
  return (
    <Spread
      name="outlook"
      leftLabel="Stock parts"
      turned={number}
      rightLabel="Chosen part"
      left={
        <div ref={index}>
          <Head outlook={outlook.data} sites={session.sites} />
          <div className="px-4">
            <Computing beside what="Computing the outlook" queryKey={["outlook", site]} />
          </div>
          <Settings outlook={outlook.data} kind={kind} onKind={setKind} mayChange={session.user?.role === "lead"} />
          {lines.length === 0 ? (
            <Nothing>
              No stock part is in service{site ? " at this site" : ""} yet.{" "}
              <Link className="text-accent underline" to="/first-day">
                First day
              </Link>{" "}
              leads from nothing to the first order.
            </Nothing>
          ) : (
            <PartTable
              outlook={outlook.data}
              lines={lines}
              chosen={number}
              onChoose={open}
              currency={session.currency}
            />
          )}
          {!site && !kind && <Others currency={session.currency} />}
          <p className="px-4 py-3 text-[0.93rem] text-soft">
            {plural(outlook.data.lines.length, "stock part")}. Failure rates are counted over all sites; the interval is
            90% credible. Strips show the position (on the shelf and coming, less what is promised) without new orders:
            median line, 5–95% band, dotted the reorder point; the bar on top spans the days on which the next order is
            likely.
          </p>
        </div>
      }
      right={
        number ? (
          <PlatePage number={number} session={session} />
        ) : (
          <Due
            outlook={outlook.data}
            currency={session.currency}
            onChoose={open}
            mayOrder={session.user?.role === "lead"}
            carriers={Object.fromEntries(session.sites.map((one) => [one.code, one.carrier ?? "boat"]))}
          />
        )
      }
    />
  );
}
