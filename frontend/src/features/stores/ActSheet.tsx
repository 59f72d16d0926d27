import { useState } from "react";
import { day } from "@/lib/format";
import { AskSheet, PartsField, ValueField } from "@/shared/AskSheet";
import { SelectField } from "@/ui/Field";
import { type Shelf, type Tally, useAct, useCount, usePack, usePromise } from "./stores.queries";

export type SheetName = "count" | "transfer" | "reserve" | "set_aside";

export interface ActSheetProps {
  name: SheetName;
  shelf: Shelf;
  tally: Tally;
  onClose: () => void;
}

/** What is done with a shelf: one question a sheet. */
export function ActSheet(props: ActSheetProps) {
  if (props.name === "count") return <CountSheet {...props} />;
  if (props.name === "transfer") return <TransferSheet {...props} />;
  if (props.name === "reserve") return <ReserveSheet {...props} />;
  return <OtherSheet {...props} />;
}

const placeOf = (shelf: Shelf) => ({ number: shelf.part_number, site: shelf.site });

function CountSheet({ shelf, onClose }: ActSheetProps) {
  const [blind, setBlind] = useState(true);
  const [counted, setCounted] = useState("");
  const [reason, setReason] = useState("");
  const [place, setPlace] = useState(shelf.place ?? "");
  const count = useCount(placeOf(shelf));
  return (
    <AskSheet
      title={`Count ${shelf.part_name}`}
      about={`At ${shelf.site_name}. A difference is booked with its reason; a large one waits for a lead.`}
      label="Book the count"
      sending={count}
      onSend={() => count.mutate({ counted: Number(counted), reason, place }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <>
          <p>
            {blind ? (
              <button type="button" className="text-accent underline" onClick={() => setBlind(false)}>
                show what is booked
              </button>
            ) : (
              `${shelf.on_hand} are booked.`
            )}{" "}
            <a
              className="text-accent underline"
              href={`/api/v1/stores/count-sheet.pdf?site=${shelf.site}`}
              target="_blank"
              rel="noreferrer"
            >
              print the count sheet of {shelf.site_name}
            </a>
          </p>
          <PartsField
            label="Parts that lie there"
            min={0}
            required
            autoFocus
            value={counted}
            fault={problem?.at("counted")}
            onValue={setCounted}
          />
          <ValueField
            label="What may have happened, if they differ"
            value={reason}
            fault={problem?.at("reason")}
            onValue={setReason}
          />
          <ValueField label="Place on the shelves, such as C-14" value={place} onValue={setPlace} />
        </>
      )}
    </AskSheet>
  );
}

function TransferSheet({ shelf, tally, onClose }: ActSheetProps) {
  const others = tally.sites.filter((site) => site.code !== shelf.site);
  const row = tally.rows.find((line) => line.number === shelf.part_number);
  const lacking = others.find((site) => {
    const cell = row?.cells.find((one) => one.site === site.code);
    return cell && cell.level !== null && cell.on_hand - cell.expired + cell.coming < cell.level;
  });
  const [to, setTo] = useState(lacking?.code ?? others[0]?.code ?? "");
  const [quantity, setQuantity] = useState("1");
  const pack = usePack();
  const sent = { part_number: shelf.part_number, from_site: shelf.site, to_site: to, quantity: Number(quantity) };
  const danger = shelf.energy_class
    ? ` ${shelf.energy_class}: carrier and dangerous-goods rules decide; damaged packs are never sent.`
    : "";
  return (
    <AskSheet
      title={`Transfer ${shelf.part_name}`}
      about={`From ${shelf.site_name}. Packed parts are on no shelf until they arrive.${danger}`}
      label="Pack"
      sending={pack}
      onSend={() => pack.mutate(sent, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <>
          <SelectField
            label="To"
            value={to}
            fault={problem?.at("to_site")}
            onChange={(event) => setTo(event.target.value)}
          >
            {others.map((site) => (
              <option key={site.code} value={site.code}>
                {site.name}
              </option>
            ))}
          </SelectField>
          <PartsField autoFocus value={quantity} fault={problem?.at("quantity")} onValue={setQuantity} />
        </>
      )}
    </AskSheet>
  );
}

function ReserveSheet({ shelf, onClose }: ActSheetProps) {
  const [quantity, setQuantity] = useState("1");
  const [tag, setTag] = useState("");
  const [plan, setPlan] = useState("");
  const promise = usePromise(placeOf(shelf));
  const open = shelf.swaps.filter((swap) => swap.kept < swap.quantity);
  return (
    <AskSheet
      title={`Reserve ${shelf.part_name}`}
      about={`At ${shelf.site_name}. What does not lie free is waited for, and filled first come, first served.`}
      label="Reserve"
      sending={promise}
      fields={["quantity", "tag", "plan_id"]}
      onSend={() =>
        promise.mutate(
          { quantity: Number(quantity), tag: plan ? "" : tag, plan_id: plan ? Number(plan) : null },
          { onSuccess: onClose },
        )
      }
      onClose={onClose}
    >
      {(problem) => (
        <>
          <PartsField autoFocus value={quantity} fault={problem?.at("quantity")} onValue={setQuantity} />
          {open.length > 0 && (
            <SelectField
              label="For"
              value={plan}
              fault={problem?.at("plan_id")}
              onChange={(event) => setPlan(event.target.value)}
            >
              <option value="">a machine, or nobody in particular</option>
              {open.map((swap) => (
                <option key={swap.id} value={swap.id}>
                  {`the swap of ${swap.quantity} in ${swap.model} on ${day(swap.planned_on)}, ${swap.kept} kept`}
                </option>
              ))}
            </SelectField>
          )}
          {!plan && (
            <ValueField
              label="For the machine with the tag"
              hint="Empty: for nobody in particular."
              value={tag}
              fault={problem?.at("tag")}
              onValue={setTag}
            />
          )}
        </>
      )}
    </AskSheet>
  );
}

const ACT_NAMES: Record<string, string> = {
  found: "found, not from a shelf",
  set_aside: "set aside in quarantine",
  release: "release from quarantine to the shelf",
  dispose: "dispose of from quarantine",
  send_back: "send back to the supplier",
  send_back_set_aside: "send back from quarantine",
  credited: "credited by the supplier",
  came_back: "came back from the supplier",
  expire: "scrap, expired",
  scrap: "scrap",
  scrap_harvested: "scrap, harvested",
};

function OtherSheet({ shelf, onClose }: ActSheetProps) {
  const [act, setAct] = useState(shelf.acts.find((name) => name !== "found") ?? shelf.acts[0] ?? "");
  const [quantity, setQuantity] = useState("1");
  const [reason, setReason] = useState("");
  const move = useAct(placeOf(shelf));
  const [madeOn, setMadeOn] = useState("");
  const [lot, setLot] = useState("");
  const named = act === "found" ? madeOn : FROM_SHELF.includes(act) ? lot : "";
  const sent = { act, quantity: Number(quantity), reason, made_on: named || null };
  const lots = shelf.lots.filter((one) => one.made_on !== null);
  return (
    <AskSheet
      title={shelf.part_name}
      about={`At ${shelf.site_name}. Every act is on record with its reason and can be undone.`}
      label="Book it"
      sending={move}
      onSend={() => move.mutate(sent, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <>
          <SelectField label="What" value={act} onChange={(event) => setAct(event.target.value)}>
            {shelf.acts.map((name) => (
              <option key={name} value={name}>
                {ACT_NAMES[name] ?? name}
              </option>
            ))}
          </SelectField>
          <PartsField value={quantity} fault={problem?.at("quantity")} onValue={setQuantity} />
          {act === "found" && (
            <ValueField
              label="Made on"
              type="date"
              hint="Empty: nobody knows."
              value={madeOn}
              fault={problem?.at("made_on")}
              onValue={setMadeOn}
            />
          )}
          {FROM_SHELF.includes(act) && shelf.lots.length > 1 && lots.length > 0 && (
            <SelectField
              label="From the lot"
              hint="The one in the hand, by its label; else the one that expires first."
              value={lot}
              fault={problem?.at("made_on")}
              onChange={(event) => setLot(event.target.value)}
            >
              <option value="">the one that expires first</option>
              {lots.map((one) => (
                <option key={one.made_on} value={one.made_on ?? ""}>
                  {`made on ${day(one.made_on ?? "")}, ${one.quantity} there${one.expired ? ", expired" : ""}`}
                </option>
              ))}
            </SelectField>
          )}
          <ValueField label="Why" value={reason} fault={problem?.at("reason")} onValue={setReason} />
        </>
      )}
    </AskSheet>
  );
}

/** Acts on what lies on the shelf, of which somebody holds one in the hand. */
const FROM_SHELF = ["set_aside", "send_back", "scrap"];
