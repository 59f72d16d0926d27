import { minutesWords } from "@/lib/words";
import { Button } from "@/ui/Button";
import type { ModelPageData, PositionDetail, RouteData } from "./models.queries";
import { useRoute } from "./models.queries";

const POWER = {
  cut: "isolated on the way",
  outside: "nothing inside is touched",
  unknown: "no step cuts it: ask",
};

export interface WayInProps {
  page: ModelPageData;
  position: PositionDetail;
  onRoute: () => void;
}

/** The way in to the part chosen, in five lines, and the door to the whole route. */
export function WayIn({ page, position, onRoute }: WayInProps) {
  const route = useRoute(page.model_id, { to: [position.key], itself: [], include: [], options: [], packOut: false });
  const found = route.data;
  return (
    <section>
      <h2 className="flex items-baseline justify-between border-b border-rule pb-0.5 font-sans text-base">
        Way in <span className="font-normal text-soft">to {position.label}</span>
      </h2>
      {route.isError && <p className="pt-1 text-short">{route.error.message}</p>}
      {found && (
        <>
          <dl className="grid grid-cols-[1fr_auto] text-[0.95rem] [&>*]:border-b [&>*]:border-dotted [&>*]:border-rule [&>*]:py-[3px] [&>dd]:text-right [&>dd]:font-semibold [&>dt]:text-soft">
            <dt>Steps</dt>
            <dd>{found.steps.length}</dd>
            <dt>Minutes, open and close</dt>
            <dd>
              {found.ends.length > 0 && "at least "}
              {found.minutes_open.mean.toFixed(0)} + {found.minutes_close.mean.toFixed(0)}
            </dd>
            <dt>Tools</dt>
            <dd>{tools(found)}</dd>
            <dt>Loose fasteners</dt>
            <dd>{loose(found.tray)}</dd>
            <dt>Power</dt>
            <dd className={found.power === "unknown" ? "text-short" : ""}>{POWER[found.power]}</dd>
          </dl>
          {found.minutes_open.estimated + found.minutes_close.estimated > 0.05 && (
            <p className="mt-1 text-[0.93rem] text-thin">
              {minutesWords(found.minutes_open.estimated + found.minutes_close.estimated)} of it estimated: nobody timed
              those steps.
            </p>
          )}
          {found.ends[0] && <p className="mt-1 text-[0.93rem] text-thin">{found.ends[0].words}.</p>}
          {found.escalations[0] && (
            <p className="mt-1 text-[0.93rem] text-thin">
              {found.escalations[0].reason}; reached as {found.escalations[0].reached_label.toLowerCase()}.
            </p>
          )}
          {found.near[0] && (
            <p className="mt-1 text-[0.93rem] text-soft">
              While open: {found.near[0].label.toLowerCase()} costs {minutesWords(found.near[0].more_now)} more instead
              of {minutesWords(found.near[0].alone)}.
            </p>
          )}
          <Button look="main" className="mt-2" onClick={onRoute}>
            Show the route
          </Button>
        </>
      )}
    </section>
  );
}

function tools(found: RouteData): string {
  const named = found.tools.join(", ");
  if (!found.tools_unsaid) return named || "hands";
  return named ? `${named}, and what nobody said` : "not known";
}

function loose(tray: RouteData["tray"]): string {
  const known = tray.reduce((sum, group) => sum + group.loose, 0);
  const open = tray.reduce((sum, group) => sum + group.unknown, 0);
  const span = open ? `${known} to ${known + open}` : String(known);
  if (tray.some((group) => group.least)) return known ? `at least ${known}` : "not known";
  return tray.some((group) => group.about) ? `about ${span}` : span;
}
