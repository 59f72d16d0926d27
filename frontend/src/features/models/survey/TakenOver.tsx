import { KIND_NAMES } from "@/lib/words";
import type { Operation, Page, Position } from "./document";
import { Block } from "./Parts";
import { useWalk } from "./useSurvey";
import { partStop, stepStop } from "./walk";

type Part = "positions" | "operations";

/** What a sibling's page says and this one does not: taken over, stated otherwise, or left out because this model has it not. */
export function TakenOver({ sibling }: { sibling: Page }) {
  const { page, change, go } = useWalk();
  const own = page.positions ?? [];
  const steps = page.operations ?? [];
  const out = page.removed ?? {};
  const parts = (sibling.positions ?? []).filter((part) => !own.some((other) => other.key === part.key));
  const ways = (sibling.operations ?? []).filter((step) => !steps.some((other) => other.id === step.id));
  const leave = (part: Part, name: string): void =>
    change({ removed: { ...out, [part]: [...(out[part] ?? []), name] } });
  const take = (part: Part, name: string): void =>
    change({ removed: { ...out, [part]: (out[part] ?? []).filter((other) => other !== name) } });
  const part = ({ key, label, kind, serviceability }: Position): void => {
    change({ positions: [...own, { key, label, kind, ...(serviceability ? { serviceability } : {}) }] });
    go(partStop(key));
  };
  const step = ({ id, text }: Operation): void => {
    change({ operations: [...steps, { id, text } as Operation] });
    go(stepStop(id));
  };
  return (
    <>
      <Block title={`Parts taken over from ${page.inherits}`}>
        <ul>
          {parts.map((one) => (
            <Row
              key={one.key}
              label={one.label}
              about={KIND_NAMES[one.kind] ?? one.kind}
              out={out.positions?.includes(one.key) ?? false}
              onDiffer={() => part(one)}
              onLeave={() => leave("positions", one.key)}
              onTake={() => take("positions", one.key)}
            />
          ))}
        </ul>
      </Block>
      <Block title={`Steps taken over from ${page.inherits}`}>
        <ul>
          {ways.map((one) => (
            <Row
              key={one.id}
              label={one.text}
              about={one.layer ?? ""}
              out={out.operations?.includes(one.id) ?? false}
              onDiffer={() => step(one)}
              onLeave={() => leave("operations", one.id)}
              onTake={() => take("operations", one.id)}
            />
          ))}
        </ul>
      </Block>
    </>
  );
}

interface RowProps {
  label: string;
  about: string;
  out: boolean;
  onDiffer: () => void;
  onLeave: () => void;
  onTake: () => void;
}

const ACT = "min-h-[24px] whitespace-nowrap text-accent underline";

function Row({ label, about, out, onDiffer, onLeave, onTake }: RowProps) {
  const of = <span className="sr-only"> of {label}</span>;
  return (
    <li className="flex items-baseline gap-3 border-b border-dotted border-rule py-0.5">
      <span className={out ? "text-soft line-through" : ""}>{label}</span>
      <span className="text-soft">{out ? "not in this model" : about}</span>
      <span className="ml-auto flex gap-3">
        {out ? (
          <button type="button" className={ACT} aria-label={`Take it over after all: ${label}`} onClick={onTake}>
            take it over after all
          </button>
        ) : (
          <>
            <button type="button" className={ACT} onClick={onDiffer}>
              state a difference{of}
            </button>
            <button type="button" className={ACT} aria-label={`Not in this model: ${label}`} onClick={onLeave}>
              not in this model
            </button>
          </>
        )}
      </span>
    </li>
  );
}
