import { type DBSchema, openDB } from "idb";

/** An entry of a job's journal as this device made it. Its key is its identifier for good: sent twice, it is one entry. */
export interface Pending {
  order?: number;
  job: number;
  key: string;
  kind: string;
  data: Record<string, unknown>;
  done_at: string;
}

interface Outbox extends DBSchema {
  entries: { key: number; value: Pending; indexes: { job: number } };
}

const DEVICE = "almanac.device";

const opened = () =>
  openDB<Outbox>("almanac-bench", 1, {
    upgrade(database) {
      database.createObjectStore("entries", { keyPath: "order", autoIncrement: true }).createIndex("job", "job");
    },
  });

/** This browser's identifier at the bench; it survives a reload. */
export function deviceKey(): string {
  const kept = localStorage.getItem(DEVICE);
  if (kept) return kept;
  const made = crypto.randomUUID();
  localStorage.setItem(DEVICE, made);
  return made;
}

/** Entries of a job that the server does not have yet, in the order they were made. */
export async function pendingOf(job: number): Promise<Pending[]> {
  const database = await opened();
  const found = await database.getAllFromIndex("entries", "job", job);
  database.close();
  return found.sort((one, other) => (one.order ?? 0) - (other.order ?? 0));
}

export async function keep(entry: Omit<Pending, "order">): Promise<void> {
  const database = await opened();
  await database.add("entries", entry);
  database.close();
}

export async function forget(job: number, keys: string[]): Promise<void> {
  const database = await opened();
  const gone = new Set(keys);
  const change = database.transaction("entries", "readwrite");
  for (const entry of await change.store.index("job").getAll(job)) {
    if (gone.has(entry.key) && entry.order !== undefined) await change.store.delete(entry.order);
  }
  await change.done;
  database.close();
}

export const made = (job: number, kind: string, data: Record<string, unknown>): Omit<Pending, "order"> => ({
  job,
  key: crypto.randomUUID(),
  kind,
  data,
  done_at: new Date().toISOString(),
});
