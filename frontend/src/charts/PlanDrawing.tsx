import { type KeyboardEvent, useId, useRef } from "react";
import { fitText, isDirection, nextItem, type PlanItem, stem } from "./plan";

export interface PlanBox {
  key: string;
  label: string;
  note: string;
  colour: string;
  x: number;
  y: number;
  width: number;
  depth: number;
  chosen: boolean;
  covered: boolean;
  soldered: boolean;
  words: string;
}

export interface PlanMark {
  id: string;
  x: number;
  y: number;
  shape: "loose" | "captive" | "open" | "cam" | "plug" | "lift";
  thread: string | null;
  group: string;
  lit: boolean;
  faint: boolean;
  words: string;
  /** Of a plug: the edge of the plan it is released to. */
  towards?: string | null;
  hidden?: boolean;
}

/** Where no lever goes. */
export interface PlanZone {
  x: number;
  y: number;
  width: number;
  depth: number;
  reason: string;
}

/** What is said of an edge of the plan: clips, and when it is their turn. */
export interface PlanEdge {
  at: string;
  words: string;
}

export interface PlanDrawingProps {
  width: number;
  depth: number;
  edge: string;
  title: string;
  boxes: PlanBox[];
  marks: PlanMark[];
  active: string | null;
  onActive: (id: string | null) => void;
  onChoose?: (key: string) => void;
  zones?: PlanZone[];
  edges?: PlanEdge[];
  /** How wide it will be on the screen, so that text keeps its size. */
  pixels?: number;
}

/** The opened machine to scale, in millimetres. Text and marks keep their size on the screen whatever the machine's. */
export function PlanDrawing({
  width,
  depth,
  edge,
  title,
  boxes,
  marks,
  active,
  onActive,
  onChoose,
  zones = [],
  edges = [],
  pixels = 580,
}: PlanDrawingProps) {
  const frame = useRef<SVGSVGElement>(null);
  const unit = width / pixels;
  const items: (PlanItem & { words: string })[] = [
    ...boxes.map((box) => ({
      id: box.key,
      x: box.x + box.width / 2,
      y: box.y + box.depth / 2,
      words: `${box.label}: ${box.words}`,
    })),
    ...marks.map((mark) => ({ id: mark.id, x: mark.x, y: mark.y, words: mark.words })),
  ];
  const walk = (event: KeyboardEvent): void => {
    if (!isDirection(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    const next = nextItem(items, active, event.key);
    if (!next) return;
    onActive(next.id);
    frame.current?.querySelector<SVGElement>(`[data-item="${CSS.escape(next.id)}"]`)?.focus();
  };
  const first = items[0]?.id ?? null;
  const stop = (id: string): number => (id === (items.some((item) => item.id === active) ? active : first) ? 0 : -1);
  const margin = 18 * unit;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawing whose items are walked with the arrow keys
    <svg
      ref={frame}
      viewBox={`${-unit * 2} ${-margin} ${width + unit * 4} ${depth + margin + unit * 2}`}
      className="block max-h-[56vh] w-full"
      role="group"
      aria-label={title}
      onKeyDown={walk}
    >
      <text x={width / 2} y={-6 * unit} fontSize={12 * unit} textAnchor="middle" fill="var(--soft)">
        {edge}
      </text>
      <rect
        x={0}
        y={0}
        width={width}
        height={depth}
        rx={10 * unit}
        fill="var(--leaf)"
        stroke="var(--ink)"
        strokeWidth={1.8 * unit}
      />
      {boxes.map((box) => (
        <PlanPart
          key={box.key}
          box={box}
          unit={unit}
          tab={stop(box.key)}
          active={active === box.key}
          onActive={onActive}
          {...(onChoose ? { onChoose } : {})}
        />
      ))}
      <PlanZones zones={zones} unit={unit} name={title} />
      <PlanEdges edges={edges} width={width} depth={depth} unit={unit} />
      {marks.map((mark) => (
        // biome-ignore lint/a11y/noInteractiveElementToNoninteractiveRole: a mark of a walked drawing carries the focus
        <g
          key={mark.id}
          data-item={mark.id}
          role="img"
          aria-label={mark.words}
          tabIndex={stop(mark.id)}
          onFocus={() => onActive(mark.id)}
          onMouseEnter={() => onActive(mark.id)}
          className="outline-none"
          opacity={mark.faint && active !== mark.id ? 0.45 : 1}
        >
          <PlanShape mark={mark} unit={unit} active={active === mark.id} />
          {mark.hidden && (
            <path
              d={`M${mark.x - 8 * unit} ${mark.y - 9 * unit} h${16 * unit}`}
              stroke="var(--ink)"
              strokeWidth={2.4 * unit}
            />
          )}
        </g>
      ))}
      {boxes.map((box) => (
        <PlanLabel key={box.key} box={box} unit={unit} />
      ))}
    </svg>
  );
}

/** Zones to keep out of, hatched, each with its reason for who listens. */
function PlanZones({ zones, unit, name }: { zones: PlanZone[]; unit: number; name: string }) {
  const id = useId();
  if (zones.length === 0) return null;
  return (
    <g aria-label={`Keep out: ${name}`}>
      <pattern id={id} width={6 * unit} height={6 * unit} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1={0} y1={0} x2={0} y2={6 * unit} stroke="var(--short)" strokeWidth={1.6 * unit} />
      </pattern>
      {zones.map((zone) => (
        <rect
          key={`${zone.x},${zone.y}`}
          x={zone.x}
          y={zone.y}
          width={zone.width}
          height={zone.depth}
          fill={`url(#${id})`}
          fillOpacity={0.7}
          stroke="var(--short)"
          strokeWidth={1.2 * unit}
          strokeDasharray={`${3 * unit} ${2 * unit}`}
        >
          <title>keep out: {zone.reason}</title>
        </rect>
      ))}
    </g>
  );
}

/** Clips along the edges they are at, and which side is pried when. */
function PlanEdges({ edges, width, depth, unit }: { edges: PlanEdge[]; width: number; depth: number; unit: number }) {
  const inset = 11 * unit;
  const places: Record<string, { x: number; y: number; turn: number }> = {
    // Beside the middle: screws stand at the corners and in the middle of an edge.
    top: { x: width * 0.3, y: inset + 3 * unit, turn: 0 },
    bottom: { x: width * 0.3, y: depth - inset + 4 * unit, turn: 0 },
    left: { x: inset, y: depth * 0.3, turn: -90 },
    right: { x: width - inset, y: depth * 0.3, turn: 90 },
    centre: { x: width / 2, y: depth / 2, turn: 0 },
  };
  return edges.map((edge) => {
    const place = places[edge.at];
    return place ? (
      <text
        key={edge.at}
        x={place.x}
        y={place.y}
        transform={place.turn ? `rotate(${place.turn} ${place.x} ${place.y})` : undefined}
        fontSize={12 * unit}
        fontWeight={600}
        textAnchor="middle"
        fill="var(--accent)"
        stroke="var(--leaf)"
        strokeWidth={3 * unit}
        paintOrder="stroke"
        className="pointer-events-none"
      >
        {edge.words}
      </text>
    ) : null;
  });
}

interface PartProps {
  box: PlanBox;
  unit: number;
  tab: number;
  active: boolean;
  onActive: (id: string | null) => void;
  onChoose?: (key: string) => void;
}

function PlanPart({ box, unit, tab, active, onActive, onChoose }: PartProps) {
  return (
    // biome-ignore lint/a11y/useSemanticElements: a button inside a drawing
    <g
      data-item={box.key}
      role="button"
      tabIndex={tab}
      aria-label={`${box.label}: ${box.words}`}
      aria-pressed={box.chosen}
      className="cursor-pointer outline-none"
      onFocus={() => onActive(box.key)}
      onMouseEnter={() => onActive(box.key)}
      onClick={() => onChoose?.(box.key)}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== " ") return;
        event.preventDefault();
        onChoose?.(box.key);
      }}
    >
      <rect
        x={box.x}
        y={box.y}
        width={box.width}
        height={box.depth}
        rx={3 * unit}
        fill={`color-mix(in srgb, ${box.colour} ${box.covered ? 6 : box.chosen ? 34 : 20}%, var(--leaf))`}
        stroke={active ? "var(--accent)" : box.covered ? "var(--rule)" : box.colour}
        strokeWidth={(box.chosen || active ? 3 : 1.4) * unit}
        strokeDasharray={box.soldered || box.covered ? `${5 * unit} ${4 * unit}` : undefined}
      />
    </g>
  );
}

/** The name of a part, above the marks that may lie on it, with a halo so that it stays readable. */
function PlanLabel({ box, unit }: { box: PlanBox; unit: number }) {
  const label = fitText(box.label, box.width - 5 * unit, 6 * unit);
  const room = box.width - 5 * unit;
  const whole = box.depth > 34 * unit ? fitText(box.note, room, 5.3 * unit) : "";
  const note = whole.endsWith("…") ? fitText(box.note.split(", ").at(-1) ?? "", room, 5.3 * unit) : whole;
  const middle = box.y + box.depth / 2 + (note ? -1 : 4) * unit;
  return (
    <g
      fill={box.covered ? "var(--soft)" : "var(--ink)"}
      stroke="var(--leaf)"
      strokeWidth={3 * unit}
      strokeOpacity={0.85}
      paintOrder="stroke"
      strokeLinejoin="round"
      textAnchor="middle"
      className="pointer-events-none"
    >
      <text x={box.x + box.width / 2} y={middle} fontSize={12.5 * unit} fontWeight={600}>
        {label}
      </text>
      {note && (
        <text x={box.x + box.width / 2} y={middle + 13 * unit} fontSize={11 * unit} fill="var(--soft)">
          {note}
        </text>
      )}
    </g>
  );
}

/** A loose screw has its length as a stem, a captive one is a ring, one nobody looked at is dashed; a plug is a wedge. */
export function PlanShape({ mark, unit, active }: { mark: PlanMark; unit: number; active: boolean }) {
  const stroke = active || mark.lit ? "var(--accent)" : "var(--ink)";
  const wide = (active ? 2.6 : 1.6) * unit;
  const size = 5.5 * unit;
  if (mark.shape === "plug") {
    return (
      <>
        <path
          d={`M${mark.x - size} ${mark.y - size * 0.7} h${size * 2} l${-size * 0.6} ${size * 1.5} h${-size * 0.8} z`}
          fill={mark.lit ? "var(--accent)" : "var(--leaf)"}
          stroke={stroke}
          strokeWidth={wide}
        />
        {mark.towards && <Arrow mark={mark} length={size * 3.4} wide={wide} stroke={stroke} />}
      </>
    );
  }
  if (mark.shape === "lift") {
    return (
      <path
        d={`M${mark.x} ${mark.y - size} v${size * 2} M${mark.x - size * 0.6} ${mark.y - size * 0.3} l${size * 0.6} ${-size * 0.7} l${size * 0.6} ${size * 0.7}`}
        fill="none"
        stroke={stroke}
        strokeWidth={wide}
      />
    );
  }
  if (mark.shape === "cam") {
    return (
      <path
        d={`M${mark.x} ${mark.y - size * 1.2} l${size * 1.2} ${size * 1.2} l${-size * 1.2} ${size * 1.2} l${-size * 1.2} ${-size * 1.2} z`}
        fill="var(--leaf)"
        stroke={stroke}
        strokeWidth={wide}
      />
    );
  }
  const length = stem(mark.thread, mark.group) * 1.4 * unit;
  return (
    <g fill="var(--leaf)" stroke={stroke} strokeWidth={wide}>
      {mark.shape !== "captive" && <path d={`M${mark.x} ${mark.y + size} v${length}`} />}
      <circle
        cx={mark.x}
        cy={mark.y}
        r={size}
        strokeDasharray={mark.shape === "open" ? `${3 * unit} ${2.4 * unit}` : undefined}
      />
      {mark.shape === "captive" && <circle cx={mark.x} cy={mark.y} r={size * 0.45} />}
    </g>
  );
}

const TURNS: Record<string, number> = { right: 0, bottom: 90, left: 180, top: 270 };

/** Which way a plug is released. */
function Arrow({ mark, length, wide, stroke }: { mark: PlanMark; length: number; wide: number; stroke: string }) {
  const turn = TURNS[mark.towards ?? ""];
  if (turn === undefined) return null;
  const head = length * 0.28;
  return (
    <path
      transform={`rotate(${turn} ${mark.x} ${mark.y})`}
      d={`M${mark.x + length * 0.35} ${mark.y} h${length * 0.65} m${-head} ${-head} l${head} ${head} l${-head} ${head}`}
      fill="none"
      stroke={stroke}
      strokeWidth={wide}
    />
  );
}
