/** What a sum buys on a curve: straight between its points, which is where sums between them lie at best. */

export interface MoneyPoint {
  money: number;
  waiting: number;
}

/** Machine-days lost a year at a sum. */
export function waitingAt(curve: MoneyPoint[], money: number): number {
  const after = curve.findIndex((point) => point.money >= money);
  const right = curve[after];
  const left = curve[after - 1];
  if (after < 0) return curve.at(-1)?.waiting ?? 0;
  if (!left || !right) return right?.waiting ?? 0;
  const share = (money - left.money) / Math.max(right.money - left.money, 1e-9);
  return left.waiting + share * (right.waiting - left.waiting);
}
