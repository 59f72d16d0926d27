import { type KeyboardEvent, type PointerEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { NARROW } from "@/lib/narrow";

const KEY = "almanac.spread";
const MOST = 76;

function kept(name: string, fallback: number, least: number): number {
  const stored = Number(localStorage.getItem(`${KEY}.${name}`));
  return stored >= least && stored <= MOST ? stored : fallback;
}

export interface SpreadProps {
  name: string;
  left: ReactNode;
  right: ReactNode;
  leftLabel: string;
  rightLabel: string;
  share?: number;
  least?: number;
  /** What the right page is turned to. Where the pages lie below each other it comes into view, with a way back. */
  turned?: string | null | undefined;
}

/** Two facing pages with a rule between them that can be dragged, or moved with the arrow keys; stacked when narrow. */
export function Spread({ name, left, right, leftLabel, rightLabel, share = 66, least = 36, turned }: SpreadProps) {
  const [width, setWidth] = useState(() => kept(name, share, least));
  const frame = useRef<HTMLDivElement>(null);
  const chosen = useRef<HTMLElement>(null);
  useEffect(() => {
    if (turned && window.matchMedia(NARROW).matches) chosen.current?.scrollIntoView();
  }, [turned]);
  const move = (next: number): void => {
    const bounded = Math.min(MOST, Math.max(least, next));
    setWidth(bounded);
    localStorage.setItem(`${KEY}.${name}`, String(bounded));
  };
  const drag = (event: PointerEvent<HTMLDivElement>): void => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId) || !frame.current) return;
    const box = frame.current.getBoundingClientRect();
    move(((event.clientX - box.left) / box.width) * 100);
  };
  const nudge = (event: KeyboardEvent): void => {
    if (event.key === "ArrowLeft") move(width - 2);
    if (event.key === "ArrowRight") move(width + 2);
  };
  return (
    <div ref={frame} className="flex min-h-0 flex-1 max-[900px]:flex-col max-[900px]:overflow-y-auto">
      <section
        aria-label={leftLabel}
        className="min-h-0 min-w-0 overflow-y-auto max-[900px]:w-full! max-[900px]:flex-none max-[900px]:overflow-visible"
        style={{ width: `${width}%` }}
      >
        {left}
      </section>
      {/* biome-ignore lint/a11y/useSemanticElements: a separator that moves is a widget, which hr is not */}
      <div
        role="separator"
        tabIndex={0}
        aria-orientation="vertical"
        aria-label="Width of the pages"
        aria-valuenow={Math.round(width)}
        aria-valuemin={least}
        aria-valuemax={MOST}
        className="no-print w-[5px] shrink-0 cursor-col-resize touch-none border-x border-rule bg-paper hover:bg-rule max-[900px]:hidden"
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={drag}
        onKeyDown={nudge}
      />
      <section
        ref={chosen}
        aria-label={rightLabel}
        className="min-h-0 min-w-0 flex-1 overflow-y-auto bg-leaf max-[900px]:min-h-full max-[900px]:flex-none max-[900px]:overflow-visible max-[900px]:border-t-4 max-[900px]:border-double max-[900px]:border-ink"
      >
        {turned && (
          <button
            type="button"
            className="no-print hidden min-h-[44px] px-4 text-accent underline max-[900px]:block"
            onClick={() => frame.current?.scrollTo(0, 0)}
          >
            Back to {leftLabel.toLowerCase()}
          </button>
        )}
        {right}
      </section>
    </div>
  );
}
