import { useState } from "react";
import type { Schemas } from "@/api/client";
import { addDays } from "@/lib/format";
import { DUTY_NAMES, KIND_NAMES, KINDS } from "@/lib/words";
import { Button } from "@/ui/Button";
import { SelectField, TextField } from "@/ui/Field";
import { type Change, useFitting, useModelRows, usePositions } from "./scenarios.queries";

export interface ChangeFormProps {
  session: Schemas["SessionState"];
  onAdd: (change: Change) => void;
}

type Do = Change["do"];

/** One change more: what is done, to which machines, where, when and how many. */
export function ChangeForm({ session, onAdd }: ChangeFormProps) {
  const models = useModelRows();
  const [what, setWhat] = useState<Do>("retire");
  const [model, setModel] = useState("");
  const [site, setSite] = useState("");
  const [duty, setDuty] = useState("office_hours");
  const [quantity, setQuantity] = useState("");
  const [on, setOn] = useState(addDays(session.as_of, 60));
  const [until, setUntil] = useState(addDays(session.as_of, 150));
  const [factor, setFactor] = useState("1.5");
  const [kinds, setKinds] = useState<string[]>(["battery", "fan"]);
  const [position, setPosition] = useState("");
  const [part, setPart] = useState("");
  const chosen = Number(model || models[0]?.model_id);
  const count = Number(quantity);
  const season = what === "season";
  const change = season
    ? seasonOf(Number(factor), on, until, kinds)
    : machinesOf({ what, model: chosen, site, duty, on, count, position, part });
  return (
    <form
      className="mt-3 grid grid-cols-2 gap-3 border border-rule bg-leaf p-3"
      aria-label="Add a change"
      onSubmit={(event) => {
        event.preventDefault();
        if (change) onAdd(change);
      }}
    >
      <SelectField label="What if we" value={what} onChange={(event) => setWhat(event.target.value as Do)}>
        <option value="retire">retire machines early</option>
        <option value="buy">buy machines</option>
        <option value="swap">replace a part on a day</option>
        <option value="move">run machines under another duty</option>
        <option value="season">have a hotter season</option>
      </SelectField>
      {!season && (
        <SelectField
          label="Model"
          value={model || String(chosen)}
          onChange={(event) => {
            setModel(event.target.value);
            setPosition("");
            setPart("");
          }}
        >
          {models.map((row) => (
            <option key={row.model_id} value={row.model_id}>
              {row.maker} {row.name}
            </option>
          ))}
        </SelectField>
      )}
      {!season && (
        <SelectField label="Site" value={site} onChange={(event) => setSite(event.target.value)}>
          <option value="">{what === "buy" ? "choose a site" : "everywhere"}</option>
          {session.sites.map((entry) => (
            <option key={entry.code} value={entry.code}>
              {entry.name}
            </option>
          ))}
        </SelectField>
      )}
      {what === "swap" && Number.isFinite(chosen) && (
        <SwapFields
          model={chosen}
          position={position}
          part={part}
          onPosition={(key) => {
            setPosition(key);
            setPart("");
          }}
          onPart={setPart}
        />
      )}
      {(what === "buy" || what === "move") && (
        <SelectField label="Duty" value={duty} onChange={(event) => setDuty(event.target.value)}>
          {Object.entries(DUTY_NAMES).map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </SelectField>
      )}
      {(what === "buy" || what === "retire" || what === "swap") && (
        <TextField
          label="Machines"
          hint={what === "buy" ? undefined : "empty: all of them"}
          inputMode="numeric"
          value={quantity}
          onChange={(event) => setQuantity(event.target.value)}
        />
      )}
      {what !== "move" && (
        <TextField
          label={season ? "From" : "On"}
          type="date"
          value={on}
          onChange={(event) => setOn(event.target.value)}
        />
      )}
      {season && (
        <SeasonFields
          until={until}
          onUntil={setUntil}
          factor={factor}
          onFactor={setFactor}
          kinds={kinds}
          onKinds={setKinds}
        />
      )}
      <div className="col-span-2">
        <Button type="submit" look="main" disabled={!change}>
          Add the change
        </Button>
      </div>
    </form>
  );
}

function seasonOf(factor: number, on: string, until: string, kinds: string[]): Change | null {
  return factor > 0 && kinds.length > 0 ? { do: "season", factor, on, until, kinds } : null;
}

interface Machines {
  what: Do;
  model: number;
  site: string;
  duty: string;
  on: string;
  count: number;
  position: string;
  part: string;
}

/** The change the fields describe, or null while something is missing. */
function machinesOf({ what, model, site, duty, on, count, position, part }: Machines): Change | null {
  if (!Number.isFinite(model)) return null;
  if (what === "move") return { do: "move", model_id: model, duty, site: site || null };
  const some = { model_id: model, on, site: site || null, quantity: count > 0 ? count : null };
  if (what === "retire") return { do: "retire", ...some };
  if (what === "swap") return position && part ? { do: "swap", position, part_number: part, ...some } : null;
  return count > 0 && site ? { do: "buy", model_id: model, on, site, duty, quantity: count } : null;
}

interface SwapFieldsProps {
  model: number;
  position: string;
  part: string;
  onPosition: (key: string) => void;
  onPart: (number: string) => void;
}

/** Where a part is replaced and by which; only what fits is offered. */
function SwapFields({ model, position, part, onPosition, onPart }: SwapFieldsProps) {
  const places = usePositions(model).data?.positions ?? [];
  const fitting = useFitting(model, position).data?.parts.filter((fit) => fit.verdict === "yes") ?? [];
  return (
    <>
      <SelectField label="Position" value={position} onChange={(event) => onPosition(event.target.value)}>
        <option value="">choose a position</option>
        {places.map((place) => (
          <option key={place.key} value={place.key}>
            {place.label}
          </option>
        ))}
      </SelectField>
      <SelectField label="New part" value={part} onChange={(event) => onPart(event.target.value)}>
        <option value="">{position ? "choose a part that fits" : "choose a position first"}</option>
        {fitting.map((fit) => (
          <option key={fit.part_number} value={fit.part_number}>
            {fit.part_number} {fit.part_name}
          </option>
        ))}
      </SelectField>
    </>
  );
}

interface SeasonFieldsProps {
  until: string;
  onUntil: (day: string) => void;
  factor: string;
  onFactor: (factor: string) => void;
  kinds: string[];
  onKinds: (kinds: string[]) => void;
}

function SeasonFields({ until, onUntil, factor, onFactor, kinds, onKinds }: SeasonFieldsProps) {
  return (
    <>
      <TextField label="Until" type="date" value={until} onChange={(event) => onUntil(event.target.value)} />
      <TextField
        label="Ageing, times as fast"
        inputMode="decimal"
        value={factor}
        onChange={(event) => onFactor(event.target.value)}
      />
      <fieldset className="col-span-2">
        <legend className="text-[0.93em] font-semibold">Kinds</legend>
        <div className="flex gap-4">
          {KINDS.map((kind) => (
            <label key={kind} className="flex items-center gap-1">
              <input
                type="checkbox"
                checked={kinds.includes(kind)}
                onChange={() => onKinds(kinds.includes(kind) ? kinds.filter((k) => k !== kind) : [...kinds, kind])}
              />
              {KIND_NAMES[kind]}
            </label>
          ))}
        </div>
      </fieldset>
    </>
  );
}
