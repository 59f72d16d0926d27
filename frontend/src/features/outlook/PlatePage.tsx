import { useState } from "react";
import type { Schemas } from "@/api/client";
import { useKeys } from "@/lib/useKeys";
import { useSite } from "@/lib/useSite";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { Decisions } from "./Decisions";
import { Orders } from "./Orders";
import { usePlate } from "./outlook.queries";
import { PlateFigures } from "./PlateFigures";
import { PlateHead } from "./PlateHead";
import { Wear } from "./Wear";
import { Working } from "./Working";

/** Everything of one stock part: what to do, its plan, where the demand comes from, and how each figure came about. */
export function PlatePage({ number, session }: { number: string; session: Schemas["SessionState"] }) {
  const [site] = useSite();
  const [tables, setTables] = useState(false);
  const [working, setWorking] = useState(true);
  const plate = usePlate(number, site);
  useKeys({ t: () => setTables((before) => !before), w: () => setWorking((before) => !before) });
  if (plate.isError) {
    return <FailedToRead title="This part cannot be shown" query={plate} />;
  }
  if (!plate.data) return <Computing what="Computing the plate" queryKey={["plate", number, site]} />;
  return (
    <article className="p-4" key={number}>
      <PlateHead plate={plate.data} session={session} />
      <Decisions plate={plate.data} session={session} />
      <Orders plate={plate.data} session={session} />
      <PlateFigures plate={plate.data} tables={tables} onTables={() => setTables((before) => !before)} />
      <Wear
        plate={plate.data}
        canWrite={session.user?.role !== "reader"}
        tables={tables}
        onTables={() => setTables((before) => !before)}
      />
      <Working plate={plate.data} shown={working} onToggle={() => setWorking((before) => !before)} />
    </article>
  );
}
