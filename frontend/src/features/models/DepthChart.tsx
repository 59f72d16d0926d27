import { kindColour, minutesWords } from "@/lib/words";
import type { ModelPageData } from "./models.queries";

export interface DepthChartProps {
  page: ModelPageData;
  chosen: string | null;
  onChoose: (key: string) => void;
}

/** Columns by what must come off first, shallow to deep, with the minutes until it is off. */
export function DepthChart({ page, chosen, onChoose }: DepthChartProps) {
  const byKey = new Map(page.positions.map((entry) => [entry.key, entry]));
  return (
    <section className="mt-4">
      <h2 className="flex items-baseline justify-between border-b border-ink pb-0.5 font-sans text-base">
        Depth <span className="font-normal text-soft">what must come off first, minutes until it is off</span>
      </h2>
      <div className="flex overflow-x-auto">
        {page.layers.map((layer) => (
          <div
            key={layer.name}
            className="min-w-[128px] flex-1 border-r border-dotted border-rule px-2 pt-1.5 pb-1 last:border-r-0"
          >
            <h3 className="flex items-baseline justify-between gap-2 font-sans text-[0.95rem]">
              {layer.name === "outside" ? "Outside" : layer.name[0]?.toUpperCase() + layer.name.slice(1)}
              <span className="font-normal whitespace-nowrap text-soft">
                {layer.name === "unknown" ? "no way known" : minutesWords(layer.minutes)}
              </span>
            </h3>
            <ul className="[columns:130px]">
              {layer.positions.map((key) => {
                const entry = byKey.get(key);
                if (!entry) return null;
                return (
                  <li key={key}>
                    <button
                      type="button"
                      className={`flex w-full break-inside-avoid items-baseline gap-2 py-[3px] min-h-[25px] text-left ${key === chosen ? "bg-pick font-semibold" : "hover:bg-pick"}`}
                      onClick={() => onChoose(key)}
                    >
                      <span
                        aria-hidden="true"
                        className="size-2 shrink-0"
                        style={{ background: kindColour(entry.kind) }}
                      />
                      {entry.label}
                    </button>
                  </li>
                );
              })}
            </ul>
          </div>
        ))}
      </div>
    </section>
  );
}
