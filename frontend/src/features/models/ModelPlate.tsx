import { useState } from "react";
import { useNavigate } from "react-router";
import { figure } from "@/lib/format";
import { useAddress } from "@/lib/useAddress";
import { useKeys } from "@/lib/useKeys";
import { FORM_NAMES, KINDS } from "@/lib/words";
import { DepthChart } from "./DepthChart";
import { DriveSheet } from "./DriveSheet";
import { FitsSheet } from "./FitsSheet";
import { IdentifySheet } from "./IdentifySheet";
import { MemorySheet } from "./MemorySheet";
import type { ModelPageData, PositionDetail } from "./models.queries";
import { PageFacts } from "./PageFacts";
import { PageLinks } from "./PageLinks";
import { PlanPane } from "./PlanPane";
import { PositionCard } from "./PositionCard";
import { PositionTable } from "./PositionTable";
import { WayIn } from "./WayIn";

type Open = "fits" | "memory" | "drive" | "identify" | null;

/** One model's page: what is inside, how deep it lies, what is ordered, and what is still to settle. */
export function ModelPlate({ page }: { page: ModelPageData }) {
  const [params, change] = useAddress();
  const [open, setOpen] = useState<Open>(null);
  const navigate = useNavigate();
  const chosen = page.positions.find((entry) => entry.key === params.get("at")) ?? firstOf(page);
  const choose = (key: string): void => change({ at: key });
  const route = (): void => {
    if (chosen) void navigate({ pathname: `/models/${page.model_id}/route`, search: `to=${chosen.key}` });
  };
  useKeys({ r: route, f: () => chosen && setOpen("fits") });
  return (
    <article className="p-4">
      <Head page={page} onIdentify={() => setOpen("identify")} />
      {page.plan ? (
        <PlanPane
          key={page.model_id}
          page={page}
          plan={page.plan}
          chosen={chosen}
          onChoose={choose}
          aside={chosen && <WayIn page={page} position={chosen} onRoute={route} />}
        />
      ) : (
        <div className="mt-3 grid grid-cols-[1fr_300px] gap-4 max-[1100px]:grid-cols-1">
          <p className="border border-dashed border-rule p-6 text-soft">
            No plan yet: the survey has not measured the opened base. Positions and depth are below.
          </p>
          {chosen && <WayIn page={page} position={chosen} onRoute={route} />}
        </div>
      )}
      <DepthChart page={page} chosen={chosen?.key ?? null} onChoose={choose} />
      <PositionTable page={page} chosen={chosen?.key ?? null} onChoose={choose} />
      {chosen && (
        <PositionCard
          position={chosen}
          page={page}
          onFits={() => setOpen("fits")}
          onMemory={() => setOpen("memory")}
          onDrive={() => setOpen("drive")}
        />
      )}
      <PageFacts page={page} />
      {chosen && open === "fits" && <FitsSheet page={page} position={chosen} onClose={() => setOpen(null)} />}
      {open === "memory" && <MemorySheet page={page} onClose={() => setOpen(null)} />}
      {chosen && open === "drive" && <DriveSheet page={page} position={chosen} onClose={() => setOpen(null)} />}
      {open === "identify" && <IdentifySheet page={page} onClose={() => setOpen(null)} />}
    </article>
  );
}

/** What people come for first: a forecast part that can be reached as itself. */
const firstOf = (page: ModelPageData): PositionDetail | undefined =>
  page.positions.find((entry) => entry.reached === entry.key && KINDS.some((kind) => kind === entry.kind)) ??
  page.positions[0];

function Head({ page, onIdentify }: { page: ModelPageData; onIdentify: () => void }) {
  const label = page.label?.statements[0];
  const twin = page.looks_like[0];
  return (
    <header>
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-[1.75rem]">
          {page.maker} {page.name}
        </h1>
        <p className="text-soft">
          {FORM_NAMES[page.form] ?? page.form} · {figure(page.fleet)} in the fleet
        </p>
        <PageLinks page={page} />
      </div>
      <p className="mt-0.5 text-[0.95rem]">
        {label && <span className="code">{label.value}</span>}
        {page.label_place && (
          <span className="text-soft">
            {label ? ", " : "label "}
            {page.label_place}
          </span>
        )}
        {twin && (
          <span className={label ? "ml-3" : ""}>
            looks like{" "}
            <button type="button" className="font-semibold text-accent underline" onClick={onIdentify}>
              {twin.model}
            </button>
            {twin.ask && (
              <>
                : {twin.ask} here {twin.here ?? "not known"}, there {twin.there ?? "not known"}
              </>
            )}
          </span>
        )}
      </p>
      <p
        className={`mt-0.5 text-[0.95rem] ${page.standing_level === "Half known" ? "font-semibold text-thin" : "text-soft"}`}
      >
        {page.standing}
      </p>
      {page.unverified && (
        <p className="mt-1 border-l-4 border-thin bg-pick px-2 py-1">
          <strong className="text-thin">Unverified:</strong> {page.unverified}.
        </p>
      )}
      {page.draft && (
        <p className="mt-1 border-l-4 border-thin bg-pick px-2 py-1">
          This page is a draft: nothing is planned from it yet.
        </p>
      )}
    </header>
  );
}
