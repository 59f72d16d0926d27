import { useState } from "react";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { type Tally, useLane } from "./stores.queries";

const WEEK = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** How the depot supplies a site: days under way, when it leaves, and the company's word for what carries it. */
export function LaneSheet({ site, onClose }: { site: Tally["sites"][number]; onClose: () => void }) {
  const lane = site.lane;
  const [days, setDays] = useState(lane ? String(lane.days) : "");
  const [every, setEvery] = useState(lane?.every_days ? String(lane.every_days) : "");
  const [weekdays, setWeekdays] = useState<number[]>(lane?.weekdays ?? []);
  const [carrier, setCarrier] = useState(lane?.carrier ?? "boat");
  const change = useLane(site.code);
  const toggle = (day: number): void =>
    setWeekdays((before) => (before.includes(day) ? before.filter((one) => one !== day) : [...before, day].sort()));
  return (
    <AskSheet
      title={`From the depot to ${site.name}`}
      about="Levels, loading days and what is due are worked out from it. The longest wait between two departures counts."
      label="Change it"
      sending={change}
      fields={["days", "every_days", "weekdays", "carrier"]}
      onSend={() =>
        change.mutate(
          { days: Number(days), every_days: every.trim() ? Number(every) : null, weekdays, carrier },
          { onSuccess: onClose },
        )
      }
      onClose={onClose}
    >
      {(problem) => (
        <>
          <ValueField
            label="Days under way"
            type="number"
            min={0}
            required
            value={days}
            fault={problem?.at("days")}
            onValue={setDays}
          />
          <fieldset>
            <legend className="mb-0.5 text-[0.93em] font-semibold">Leaves on</legend>
            <div className="flex flex-wrap gap-x-4">
              {WEEK.map((name, day) => (
                <label key={name} className="flex min-h-[24px] items-center gap-1">
                  <input type="checkbox" checked={weekdays.includes(day)} onChange={() => toggle(day)} />
                  {name}
                </label>
              ))}
            </div>
          </fieldset>
          <ValueField
            label="Or every so many days"
            type="number"
            min={1}
            hint="Neither: as often as the rules of the stores say."
            value={every}
            fault={problem?.at("every_days")}
            onValue={setEvery}
          />
          <ValueField
            label="What carries it"
            hint="Your word: boat, van, post."
            value={carrier}
            fault={problem?.at("carrier")}
            onValue={setCarrier}
          />
        </>
      )}
    </AskSheet>
  );
}
