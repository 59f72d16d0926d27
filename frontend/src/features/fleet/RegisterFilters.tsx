import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { DUTY_NAMES } from "@/lib/words";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { Button } from "@/ui/Button";
import { Sheet } from "@/ui/Sheet";
import { csvAddress, LOOK_KEYS, type Look, useDropLook, useKeepLook, useKeptLooks } from "./fleet.queries";
import { COLUMNS, columnsOf, STANDING_NAMES, WANTED_NAMES } from "./words";

const BOX = "border-b border-ink bg-paper font-semibold text-ink min-h-[24px]";

const nameOf = (model: Schemas["ModelRow"]): string => `${model.maker} ${model.name}`;

export interface RegisterFiltersProps {
  look: Look;
  onLook: (changed: Partial<Look>) => void;
  models: Schemas["ModelRow"][];
}

/** What is looked for in the register; every look can be kept under a name. */
export function RegisterFilters({ look, onLook, models }: RegisterFiltersProps) {
  const [open, setOpen] = useState<"columns" | "keep" | "kept" | null>(null);
  const close = (): void => setOpen(null);
  const narrowed = LOOK_KEYS.some((key) => look[key] && !["sort", "descending", "columns"].includes(key));
  return (
    <div className="mt-2 border-t border-rule pt-2 text-soft">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <label>
          Tag or serial{" "}
          <input
            className={`${BOX} w-[120px]`}
            value={look.q}
            onChange={(event) => onLook({ q: event.target.value })}
          />
        </label>
        <label>
          Model{" "}
          <select
            className={`${BOX} max-w-[170px]`}
            value={look.model}
            onChange={(event) => onLook({ model: event.target.value })}
          >
            <option value="">any</option>
            {[...models]
              .sort((one, other) => nameOf(one).localeCompare(nameOf(other)))
              .map((model) => (
                <option key={model.model_id} value={model.model_id}>
                  {nameOf(model)}
                </option>
              ))}
          </select>
        </label>
        <label>
          Use{" "}
          <select className={BOX} value={look.duty} onChange={(event) => onLook({ duty: event.target.value })}>
            <option value="">any</option>
            {Object.entries(DUTY_NAMES).map(([duty, name]) => (
              <option key={duty} value={duty}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <label>
          That is{" "}
          <select
            className={BOX}
            value={look.standing || "in_use"}
            onChange={(event) => onLook({ standing: event.target.value === "in_use" ? "" : event.target.value })}
          >
            {Object.entries(STANDING_NAMES).map(([standing, name]) => (
              <option key={standing} value={standing}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <label>
          Where{" "}
          <select
            className={`${BOX} max-w-[230px]`}
            value={look.wanted}
            onChange={(event) => onLook({ wanted: event.target.value })}
          >
            <option value="">anything</option>
            {Object.entries(WANTED_NAMES).map(([wanted, name]) => (
              <option key={wanted} value={wanted}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <span>
          Years{" "}
          <input
            aria-label="Years, from"
            className={`${BOX} w-[3ch]`}
            inputMode="numeric"
            value={look.youngest}
            onChange={(event) => onLook({ youngest: event.target.value })}
          />{" "}
          to under{" "}
          <input
            aria-label="Years, to under"
            className={`${BOX} w-[3ch]`}
            inputMode="numeric"
            value={look.oldest}
            onChange={(event) => onLook({ oldest: event.target.value })}
          />
        </span>
      </div>
      <p className="mt-1 flex flex-wrap gap-x-4">
        {narrowed && (
          <button
            type="button"
            className="text-accent underline"
            onClick={() =>
              onLook(Object.fromEntries(LOOK_KEYS.filter((key) => key !== "columns").map((key) => [key, ""])))
            }
          >
            Show all again
          </button>
        )}
        <button type="button" className="text-accent underline" onClick={() => setOpen("columns")}>
          Columns
        </button>
        <button type="button" className="text-accent underline" onClick={() => setOpen("kept")}>
          Looks kept
        </button>
        <button type="button" className="text-accent underline" onClick={() => setOpen("keep")}>
          Keep this look
        </button>
        <a className="text-accent underline" href={csvAddress(look)} download>
          CSV
        </a>
        <Link className="ml-auto text-accent underline" to="/fleet/reports">
          Machine reports and keys
        </Link>
      </p>
      {open === "columns" && <ColumnsSheet look={look} onLook={onLook} onClose={close} />}
      {open === "keep" && <KeepSheet onClose={close} />}
      {open === "kept" && <KeptSheet onClose={close} />}
    </div>
  );
}

function ColumnsSheet({ look, onLook, onClose }: Omit<RegisterFiltersProps, "models"> & { onClose: () => void }) {
  const shown = columnsOf(look.columns).map((column) => column.name);
  const turn = (name: string): void => {
    const next = shown.includes(name) ? shown.filter((one) => one !== name) : [...shown, name];
    onLook({ columns: next.join(",") || "none" });
  };
  return (
    <Sheet
      open
      onClose={onClose}
      title="Columns"
      about="Beside the tag. They are part of the look, and of its address."
    >
      <ul className="grid gap-1">
        {COLUMNS.map((column) => (
          <li key={column.name}>
            <label className="flex min-h-[28px] items-center gap-2">
              <input type="checkbox" checked={shown.includes(column.name)} onChange={() => turn(column.name)} />
              {column.title}
            </label>
          </li>
        ))}
      </ul>
      <p className="mt-4">
        <Button look="main" onClick={onClose}>
          Done
        </Button>
      </p>
    </Sheet>
  );
}

function KeepSheet({ onClose }: { onClose: () => void }) {
  const [params] = useSearchParams();
  const [name, setName] = useState("");
  const keep = useKeepLook();
  return (
    <AskSheet
      title="Keep this look"
      about="What is looked for, how it is sorted and the columns; yours alone. One of the same name is taken the place of."
      label="Keep it"
      sending={keep}
      fields={["name"]}
      onSend={() => keep.mutate({ name, query: params.toString() }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => <ValueField label="Name" value={name} fault={problem?.at("name")} onValue={setName} autoFocus />}
    </AskSheet>
  );
}

function KeptSheet({ onClose }: { onClose: () => void }) {
  const kept = useKeptLooks();
  const drop = useDropLook();
  const views = kept.data?.views ?? [];
  return (
    <Sheet open onClose={onClose} title="Looks kept">
      {kept.data && views.length === 0 && (
        <p className="text-soft">None yet: look for something, then keep that look.</p>
      )}
      <ul>
        {views.map((view) => (
          <li key={view.id} className="flex items-baseline justify-between border-b border-dotted border-rule py-1">
            <Link className="text-accent underline" to={`/fleet?${view.query}`} onClick={onClose}>
              {view.name}
            </Link>
            <Button
              look="quiet"
              aria-label={`Let ${view.name} go`}
              disabled={drop.isPending}
              onClick={() => drop.mutate(view.id)}
            >
              Let it go
            </Button>
          </li>
        ))}
      </ul>
    </Sheet>
  );
}
