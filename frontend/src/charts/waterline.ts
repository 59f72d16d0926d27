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

/** The position at each point: what is on the shelf then, and what is still on its way. */
export function positions(points: StockPoint[], arrivals: ArrivalPoint[]): StockPoint[] {
  const all = arrivals.reduce((sum, arrival) => sum + arrival.quantity, 0);
  return points.map((point) => {
    const coming = all - arrivedBy(arrivals, point.day);
    return { day: point.day, low: point.low + coming, median: point.median + coming, high: point.high + coming };
  });
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
