/** Scales and moves of the plan: pure functions, millimetres in. */

export interface PlanItem {
  id: string;
  x: number;
  y: number;
}

export type Direction = "ArrowLeft" | "ArrowRight" | "ArrowUp" | "ArrowDown";

const AHEAD: Record<Direction, (dx: number, dy: number) => [along: number, across: number]> = {
  ArrowLeft: (dx, dy) => [-dx, dy],
  ArrowRight: (dx, dy) => [dx, dy],
  ArrowUp: (dx, dy) => [-dy, dx],
  ArrowDown: (dx, dy) => [dy, dx],
};

export const isDirection = (key: string): key is Direction => key in AHEAD;

/** The nearest item in a direction: what lies straight ahead counts as nearer than what lies aside. */
export function nextItem(items: PlanItem[], from: string | null, direction: Direction): PlanItem | undefined {
  const here = items.find((item) => item.id === from);
  if (!here) return items[0];
  let best: PlanItem | undefined;
  let least = Number.POSITIVE_INFINITY;
  for (const item of items) {
    const [along, across] = AHEAD[direction](item.x - here.x, item.y - here.y);
    const cost = along + 2 * Math.abs(across);
    if (along > 0.5 && cost < least) {
      least = cost;
      best = item;
    }
  }
  return best;
}

/** How long the stem of a screw is drawn: its length in mm where the thread says it, within bounds. */
export function stem(thread: string | null, group: string): number {
  const length = thread ? Number(thread.split("x")[1]) : group.includes("long") ? 8 : 4;
  return Math.min(Math.max(length || 4, 2), 12);
}

/** Text that fits a box: whole, shortened, or nothing where even a few letters would not fit. */
export function fitText(text: string, width: number, letter: number): string {
  const room = Math.floor(width / letter);
  if (text.length <= room) return text;
  return room < 5 ? "" : `${text.slice(0, room - 1)}…`;
}
