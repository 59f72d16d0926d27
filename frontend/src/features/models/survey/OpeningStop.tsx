import { SelectField, TextField } from "@/ui/Field";
import { Block, Grid, LineField, Pick, Wide } from "./Parts";
import { Rows } from "./Rows";
import { useWalk } from "./useSurvey";

const SIDES = ["hinge", "front", "left", "right"] as const;
const CORNERS = ["hinge left corner", "hinge right corner", "front left corner", "front right corner"] as const;
const STARTS = [...SIDES, ...CORNERS, "bay", "any side"] as const;
const ROWS = [...SIDES, "centre"] as const;
const SEEN = ["from below", "from above", "from behind"] as const;
const named = (sides: readonly string[]) => sides.map((side) => ({ value: side, label: side }));

/** The size of the opened base, what hides under its feet, and where to start without force. */
export function OpeningStop() {
  const { page, change } = useWalk();
  const opening = page.opening ?? {};
  const plan = page.plan;
  const size = (text: string): void => {
    const [width, depth] = text.split(/[x×]/).map((part) => Number.parseFloat(part));
    if (width && depth) change({ plan: { ...plan, width_mm: width, depth_mm: depth } });
    else if (!text.trim()) change({ plan: null });
  };
  const set = (next: Partial<typeof opening>): void => change({ opening: { ...opening, ...next } });
  const figure = (text: string): number | null => {
    const value = Number.parseFloat(text.replace(",", "."));
    return Number.isFinite(value) ? value : null;
  };
  return (
    <>
      <Grid>
        <LineField
          label="Base, width × depth in mm"
          placeholder="322 x 216"
          value={plan ? `${plan.width_mm} x ${plan.depth_mm}` : ""}
          onCommit={size}
        />
        <SelectField
          label="Plan is seen"
          disabled={!plan}
          value={plan?.seen ?? "from below"}
          onChange={(event) =>
            plan &&
            change({ plan: { ...plan, seen: SEEN.find((seen) => seen === event.target.value) ?? "from below" } })
          }
        >
          {SEEN.map((seen) => (
            <option key={seen}>{seen}</option>
          ))}
        </SelectField>
        <SelectField
          label="Start at"
          value={opening.start_edge ?? ""}
          onChange={(event) => set({ start_edge: STARTS.find((side) => side === event.target.value) ?? null })}
        >
          <option value="">not known</option>
          {STARTS.map((side) => (
            <option key={side}>{side}</option>
          ))}
        </SelectField>
        <SelectField
          label="Hooks slide towards"
          value={opening.hooks ?? ""}
          onChange={(event) => set({ hooks: SIDES.find((side) => side === event.target.value) ?? null })}
        >
          <option value="">not known</option>
          {SIDES.map((side) => (
            <option key={side}>{side}</option>
          ))}
        </SelectField>
        <LineField
          label="Pick no deeper than, mm"
          value={String(opening.depth_limit_mm ?? "")}
          onCommit={(text) => set({ depth_limit_mm: figure(text) })}
        />
        <LineField
          label="Screws counted"
          hint="in all, to hold groups against"
          value={String(opening.screws_counted ?? "")}
          onCommit={(text) => set({ screws_counted: figure(text) })}
        />
        <LineField
          label="Hinge opens to, degrees"
          value={String(opening.largest_hinge_angle ?? "")}
          onCommit={(text) => set({ largest_hinge_angle: figure(text) })}
        />
        <Wide>
          <Pick
            label="Then pry, in order"
            value={opening.pry_order ?? []}
            choices={named(SIDES)}
            onChange={(order) => set({ pry_order: order.flatMap((side) => SIDES.find((one) => one === side) ?? []) })}
          />
        </Wide>
        <Wide>
          <TextField
            label="Start there because"
            value={opening.start_reason ?? ""}
            onChange={(event) => set({ start_reason: event.target.value || null })}
          />
        </Wide>
      </Grid>
      <Block title="Clips" about="along each side, as far as somebody counted: 5, >=3, ~8, ?">
        <Rows
          one="row of clips"
          rows={opening.clip_rows ?? []}
          columns={[
            { key: "side", label: "Side", as: "choice", choices: named(ROWS) },
            { key: "clips", label: "Clips", as: "count" },
          ]}
          name={(row) => row.side ?? ""}
          fresh={() => ({ side: freeSide(opening.clip_rows ?? []), clips: "?" })}
          onChange={(clip_rows) => set({ clip_rows })}
        />
      </Block>
      <Block title="Feet" about="and what hides under them">
        <Rows
          one="foot"
          rows={opening.feet ?? []}
          columns={[
            { key: "name", label: "Name", as: "text" },
            { key: "hides", label: "Screws under it", as: "count" },
            { key: "place", label: "Place, mm", as: "point" },
            { key: "corners_only", label: "lift a corner only", as: "tick" },
            { key: "unlike", label: "unlike the others", as: "tick" },
            { key: "verified", label: "looked under", as: "tick" },
          ]}
          name={(row) => row.name ?? ""}
          fresh={() => ({ name: "foot", hides: "?" })}
          onChange={(feet) => set({ feet })}
        />
      </Block>
    </>
  );
}

/** The side nobody has a row of yet. */
const freeSide = (rows: { side: (typeof ROWS)[number] }[]): (typeof ROWS)[number] =>
  ROWS.find((side) => !rows.some((row) => row.side === side)) ?? "hinge";
