/** A step function as a path: it holds its value until the next place. */
export interface StepPoint {
  age: number;
  low: number | null;
  survival: number;
  high: number | null;
}

type Scale = (value: number) => number;

export function stepPath(points: StepPoint[], from: number, until: number, x: Scale, y: Scale): string {
  let path = `M${x(from)} ${y(1)}`;
  for (const point of points) path += ` H${x(point.age)} V${y(point.survival)}`;
  return `${path} H${x(until)}`;
}

/** The band between the limits of the steps; where there are none it closes on the step itself. */
export function stepBand(points: StepPoint[], from: number, until: number, x: Scale, y: Scale): string {
  if (points.length === 0) return "";
  let upper = `M${x(from)} ${y(1)}`;
  for (const point of points) upper += ` H${x(point.age)} V${y(point.high ?? point.survival)}`;
  upper += ` H${x(until)}`;
  let lower = "";
  let right = until;
  for (const point of [...points].reverse()) {
    lower += ` L${x(right)} ${y(point.low ?? point.survival)} L${x(point.age)} ${y(point.low ?? point.survival)}`;
    right = point.age;
  }
  return `${upper}${lower} L${x(right)} ${y(1)} Z`;
}
