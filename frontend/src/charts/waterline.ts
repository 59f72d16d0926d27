/** Projected stock as a line that falls with demand and steps up with arrivals: pure geometry, tested on its own. */

export interface StockPoint {
  day: number;
  low: number;
  median: number;
  high: number;
}

export interface ArrivalPoint {
  day: number;
  quantity: number;
}

type Level = "low" | "median" | "high";

const arrivedBy = (arrivals: ArrivalPoint[], day: number): number =>
  arrivals.filter((arrival) => arrival.day <= day).reduce((sum, arrival) => sum + arrival.quantity, 0);

function interpolate(points: StockPoint[], arrivals: ArrivalPoint[], level: Level, day: number): number {
  const after = points.findIndex((point) => point.day >= day);
  const right = points[Math.max(after, 0)];
  const left = points[Math.max(after - 1, 0)];
  if (!right || !left) return 0;
  const fallen = (point: StockPoint): number => point[level] - arrivedBy(arrivals, point.day);
  if (right.day === left.day) return fallen(right);
  const share = (day - left.day) / (right.day - left.day);
  return fallen(left) + share * (fallen(right) - fallen(left));
}

/** Corners of one level's line: month ends, and two corners at each arrival. */
export function waterline(points: StockPoint[], arrivals: ArrivalPoint[], level: Level): [number, number][] {
  const last = points.at(-1)?.day ?? 0;
  const corners: [number, number][] = points.map((point) => [point.day, point[level]]);
  for (const day of new Set(arrivals.map((arrival) => arrival.day))) {
    if (day >= last) continue;
    const base = interpolate(points, arrivals, level, day);
    corners.push([day, base + arrivedBy(arrivals, day - 1)], [day, base + arrivedBy(arrivals, day)]);
  }
  return corners
    .map((corner, place): [number, number, number] => [...corner, place])
    .sort((a, b) => a[0] - b[0] || a[2] - b[2])
    .map(([day, stock]): [number, number] => [day, stock]);
}

type Corner = [number, number];

/** The part of one straight piece of a line that lies below the floor, if any. */
function pieceBelow([fromDay, from]: Corner, [toDay, to]: Corner, floor: number): [number, number] | null {
  if (from >= floor && to >= floor) return null;
  if (from < floor && to < floor) return [fromDay, toDay];
  const crossing = fromDay + ((floor - from) / (to - from)) * (toDay - fromDay);
  return from < floor ? [fromDay, crossing] : [crossing, toDay];
}

/** From which day a line is below the floor until where it comes back; pieces that touch are one stretch. */
export function stretchesBelow(line: Corner[], floor: number): [number, number][] {
  const found: [number, number][] = [];
  for (const [place, corner] of line.slice(1).entries()) {
    const piece = pieceBelow(line[place] ?? corner, corner, floor);
    if (!piece || piece[1] <= piece[0]) continue;
    const previous = found.at(-1);
    if (previous && piece[0] - previous[1] < 0.5) previous[1] = piece[1];
    else found.push(piece);
  }
  return found;
}

export const polyline = (line: [number, number][], x: (day: number) => number, y: (stock: number) => number): string =>
  line.map(([day, stock], i) => `${i === 0 ? "M" : "L"}${x(day).toFixed(1)},${y(stock).toFixed(1)}`).join("");

export function band(
  high: [number, number][],
  low: [number, number][],
  x: (day: number) => number,
  y: (stock: number) => number,
): string {
  return `${polyline(high, x, y)}${polyline([...low].reverse(), x, y).replace("M", "L")}Z`;
}
