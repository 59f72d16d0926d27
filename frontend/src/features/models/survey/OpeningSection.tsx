import { SelectField, TextField } from "@/ui/Field";
import { Block } from "./Block";
import { LineField } from "./LineField";
import type { SectionProps } from "./section";

const SIDES = ["hinge", "front", "left", "right"] as const;
const ROWS = [...SIDES, "centre"] as const;

/** The size of the opened base, and where to start without force. */
export function OpeningSection({ page, change }: SectionProps) {
  const opening = page.opening ?? {};
  const plan = page.plan;
  const size = (text: string): void => {
    const [width, depth] = text.split(/[x×]/).map((part) => Number.parseFloat(part));
    if (width && depth) change({ plan: { ...plan, width_mm: width, depth_mm: depth } });
    else if (!text.trim()) change({ plan: null });
  };
  const set = (next: Partial<typeof opening>): void => change({ opening: { ...opening, ...next } });
  return (
    <Block title="How it opens">
      <div className="grid grid-cols-4 gap-3">
        <LineField
          label="Base, width × depth in mm"
          placeholder="322 x 216"
          value={plan ? `${plan.width_mm} x ${plan.depth_mm}` : ""}
          onCommit={size}
        />
        <SelectField
          label="Start at"
          value={opening.start_edge ?? ""}
          onChange={(event) => set({ start_edge: SIDES.find((side) => side === event.target.value) ?? null })}
        >
          <option value="">not known</option>
          {SIDES.map((side) => (
            <option key={side}>{side}</option>
          ))}
        </SelectField>
        <div className="col-span-2">
          <TextField
            label="Because"
            value={opening.start_reason ?? ""}
            onChange={(event) => set({ start_reason: event.target.value || null })}
          />
        </div>
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
          value={opening.depth_limit_mm ? String(opening.depth_limit_mm) : ""}
          onCommit={(text) => set({ depth_limit_mm: Number.parseFloat(text) || null })}
        />
        <LineField
          label="Screws counted"
          value={
            opening.screws_counted === null || opening.screws_counted === undefined
              ? ""
              : String(opening.screws_counted)
          }
          onCommit={(text) => set({ screws_counted: text.trim() === "" ? null : Number.parseInt(text, 10) })}
        />
        <LineField
          label="Clips"
          placeholder="4 left, >=3 right, ~5 front"
          value={(opening.clip_rows ?? []).map((row) => `${row.clips} ${row.side}`).join(", ")}
          onCommit={(text) => set({ clip_rows: clipsFrom(text) })}
        />
      </div>
    </Block>
  );
}

/** "4 left, >=3 right, ? front": clips along the sides, as far as somebody counted them. */
function clipsFrom(text: string): { side: (typeof ROWS)[number]; clips: number | string }[] {
  return text.split(",").flatMap((item) => {
    const [said] = /^\s*(?:(?:>=|~)\s*\d+|\d+|\?)/.exec(item) ?? [];
    const side = ROWS.find((name) => item.includes(name));
    if (said === undefined || !side) return [];
    const clips = said.replace(/\s/g, "");
    return [{ side, clips: /^\d+$/.test(clips) ? Number(clips) : clips }];
  });
}
