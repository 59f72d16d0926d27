/** What the server says of its answers beside the figures: when they were made, and whether newer ones are on their way. */

export interface Coming {
  /** When the oldest answer on the page was made that a newer one will take the place of. */
  madeAt: string | null;
  /** What is computed for the first time: in words, with how much is done. */
  first: { words: string; done: number; of: number; waiting: number } | null;
}

const NOTHING: Coming = { madeAt: null, first: null };

let coming: Coming = NOTHING;
const newer = new Map<string, string>();
const firsts = new Map<string, Coming["first"]>();
const keys = new Map<string, string>();
const listeners = new Set<() => void>();

function settle(): void {
  const madeAt = [...newer.values()].sort()[0] ?? null;
  const first = [...firsts.values()][0] ?? null;
  if (madeAt === coming.madeAt && JSON.stringify(first) === JSON.stringify(coming.first)) return;
  coming = madeAt || first ? { madeAt, first } : NOTHING;
  for (const tell of listeners) tell();
}

/** An answer came: `madeAt` says that a newer one is being computed. */
export function answered(url: string, madeAt: string | null, key: string | null): void {
  firsts.delete(url);
  if (madeAt) newer.set(url, madeAt);
  else newer.delete(url);
  if (key) keys.set(url, key.replace(/^W\/|"/g, ""));
  settle();
}

/** The first answer to something is being computed. */
export function computing(url: string, words: Coming["first"]): void {
  firsts.set(url, words);
  settle();
}

/** Nobody waits for it any more. */
export function givenUp(url: string): void {
  firsts.delete(url);
  newer.delete(url);
  settle();
}

/** The key of the answer last seen at an address: what a decision rests on. */
export const keyOfAnswer = (path: string): string | null => keys.get(new URL(path, location.href).href) ?? null;

export const theComing = (): Coming => coming;

export function onComing(tell: () => void): () => void {
  listeners.add(tell);
  return () => listeners.delete(tell);
}
