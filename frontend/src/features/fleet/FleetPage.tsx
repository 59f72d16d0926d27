import { useState } from "react";
import { useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing, Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { AgeBands } from "./AgeBands";
import { ACTS, BulkSheet } from "./BulkSheet";
import { type Look, type RegisterLine, useLook, useModelNames, useRegister } from "./fleet.queries";
import { RegisterFilters } from "./RegisterFilters";
import { RegisterList } from "./RegisterList";

type Session = Schemas["SessionState"];
type Act = Schemas["BulkIn"]["act"];
const MOST = 500;

/** What the company owns: how old it is and what it will ask for on the left, the machines themselves on the right. */
export default function FleetPage() {
  const session = useOutletContext<Session>();
  const [asked, onLook] = useLook();
  // Where there is one site a column of it says nothing.
  const look = asked.columns || session.sites.length > 1 ? asked : { ...asked, columns: "model,age,duty,serial" };
  const narrowed = [look.model, look.youngest, look.oldest].filter(Boolean).join("-");
  return (
    <Spread
      name="fleet"
      share={52}
      least={34}
      leftLabel="Fleet by age"
      rightLabel="Register"
      turned={narrowed || null}
      left={<AgeBands look={look} onLook={onLook} sites={session.sites.length} />}
      right={<Register look={look} onLook={onLook} session={session} />}
    />
  );
}

function Register({
  look,
  onLook,
  session,
}: {
  look: Look;
  onLook: (changed: Partial<Look>) => void;
  session: Session;
}) {
  const register = useRegister(look);
  const models = useModelNames().data?.models ?? [];
  const [picked, setPicked] = useState<Set<string>>(new Set());
  const [act, setAct] = useState<Act | null>(null);
  const [told, setTold] = useState("");
  const lead = session.user?.role === "lead";
  const pages = register.data?.pages ?? [];
  const machines = pages.flatMap((page) => page.machines);
  const chosen = machines.filter((machine) => picked.has(machine.tag));
  const pick = (tags: string[], on: boolean): void =>
    setPicked((before) => {
      const next = new Set(before);
      for (const tag of tags) on ? next.add(tag) : next.delete(tag);
      return next;
    });
  const total = pages[0]?.total ?? 0;
  return (
    <div className="flex h-full min-h-[420px] flex-col p-4">
      <h2 className="text-[1.5rem]">Register</h2>
      <p className="text-soft" role="status">
        {register.data ? plural(total, "machine") : ""}
        {chosen.length > 0 ? `, ${chosen.length} picked` : ""}
        {told ? `; ${told}` : ""}
      </p>
      <RegisterFilters look={look} onLook={onLook} models={models} />
      {chosen.length > 0 && <Picked chosen={chosen} lead={lead} onAct={setAct} onNone={() => setPicked(new Set())} />}
      {register.isError && <FailedToRead title="The register cannot be shown" query={register} />}
      {register.isPending && <Waiting what="Reading the register" />}
      {register.data && machines.length === 0 && <None look={look} />}
      {machines.length > 0 && (
        <RegisterList
          machines={machines}
          asOf={pages[0]?.as_of ?? session.as_of}
          look={look}
          onLook={onLook}
          picked={picked}
          onPick={pick}
          total={total}
          more={register.hasNextPage}
          loading={register.isFetchingNextPage}
          onMore={() => void register.fetchNextPage()}
        />
      )}
      {act && (
        <BulkSheet
          act={act}
          machines={chosen}
          session={session}
          onDone={(words) => {
            setTold(words);
            setAct(null);
            setPicked(new Set());
          }}
          onClose={() => setAct(null)}
        />
      )}
    </div>
  );
}

function None({ look }: { look: Look }) {
  const sought = [look.site, look.q, look.model, look.wanted, look.youngest, look.oldest, look.duty, look.standing];
  return (
    <Nothing>
      {sought.some(Boolean)
        ? "No machine is like that. Look for less, or show all again."
        : "No machine is on record yet: import a list of them (Import own data)."}
    </Nothing>
  );
}

interface PickedProps {
  chosen: RegisterLine[];
  lead: boolean;
  onAct: (act: Act) => void;
  onNone: () => void;
}

const LINK = "rounded-[2px] border border-ink px-3 py-1.5 font-semibold hover:bg-pick";

/** What can be done with the machines that are picked. */
function Picked({ chosen, lead, onAct, onNone }: PickedProps) {
  const address = labelsAddress(chosen.map((machine) => machine.tag));
  return (
    <fieldset className="mt-2 flex flex-wrap gap-2">
      <legend className="sr-only">With the machines picked</legend>
      <a className={LINK} href={address} download>
        Labels
      </a>
      <a className={LINK} href={`${address}&single=true`} download>
        Single labels
      </a>
      {lead &&
        chosen.length <= MOST &&
        (Object.keys(ACTS) as Act[]).map((one) => (
          <Button key={one} onClick={() => onAct(one)}>
            {BUTTONS[one]}
          </Button>
        ))}
      <Button look="quiet" onClick={onNone}>
        Pick none
      </Button>
    </fieldset>
  );
}

const BUTTONS: Record<Act, string> = { move: "Move", duty: "Use", plan: "Plan retirement", retire: "Retire" };

const labelsAddress = (tags: string[]): string =>
  `/api/v1/fleet/labels.pdf?tags=${encodeURIComponent(tags.slice(0, MOST).join(","))}`;
