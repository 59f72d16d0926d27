import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { isProblem, type Problem } from "@/api/client";
import { holdJob, releaseJob, sendEntries } from "./bench.queries";
import type { Job } from "./local";
import { deviceKey, forget, keep, made, type Pending, pendingOf } from "./outbox";

const keysOf = (entries: Pending[]): string[] => entries.map((entry) => entry.key);

const HEARTBEAT_MS = 30_000;
const RETRY_MS = 3_000;

export interface Bench {
  device: string;
  pending: Pending[];
  connected: boolean;
  /** Who has the job in hand elsewhere, when it is not in hand here. */
  taken: string | null;
  refused: string[];
  write: (kind: string, data?: Record<string, unknown>) => Promise<boolean>;
  takeOver: () => Promise<void>;
  dropPending: () => Promise<void>;
  forgetRefusal: () => void;
}

/** A job in hand: the lease with its heartbeat, and an outbox that survives reloads and sends once and in order. */
export function useBench(job: number): Bench {
  const client = useQueryClient();
  const device = deviceKey();
  const [pending, setPending] = useState<Pending[]>([]);
  const [connected, setConnected] = useState(true);
  const [taken, setTaken] = useState<string | null>(null);
  const [refused, setRefused] = useState<string[]>([]);
  const sending = useRef<Promise<boolean> | null>(null);

  const hold = useCallback(
    async (takeover: boolean): Promise<void> => {
      try {
        await holdJob(job, device, takeover);
        setTaken(null);
        setConnected(true);
      } catch (error) {
        if (!isProblem(error)) throw error;
        if (error.status === 0) setConnected(false);
        else setTaken(error.detail);
      }
    },
    [job, device],
  );

  /** Without a connection all waits; taken over, all waits for a decision; what the server does not understand goes. */
  const failed = useCallback(
    async (error: Problem, waiting: Pending[]): Promise<boolean> => {
      if (error.status === 0) setConnected(false);
      else if (error.status === 409) setTaken(error.detail);
      else {
        await forget(job, keysOf(waiting));
        setPending([]);
        setRefused(error.faults.length > 0 ? error.faults.map((fault) => fault.message) : [error.detail]);
      }
      return false;
    },
    [job],
  );

  const sendAll = useCallback(async (): Promise<boolean> => {
    const waiting = await pendingOf(job);
    setPending(waiting);
    if (waiting.length === 0) return true;
    try {
      const sent = waiting.map(({ key, kind, data, done_at }) => ({ key, kind, data, done_at }));
      const taken = await sendEntries(job, { device, entries: sent });
      // What follows a refused entry was made on top of it: it goes too, and the page shows the job as it is.
      await forget(job, keysOf(waiting));
      // A reading that began before this was written would bring back the job as it was.
      await client.cancelQueries({ queryKey: ["job", job] });
      client.setQueryData<Job>(["job", job], taken.job);
      void client.invalidateQueries({ queryKey: ["jobs"] });
      setPending(await pendingOf(job));
      setConnected(true);
      setRefused(taken.reasons);
      return taken.reasons.length === 0;
    } catch (error) {
      if (!isProblem(error)) throw error;
      return failed(error, waiting);
    }
  }, [job, device, client, failed]);

  /** One sending at a time, so that entries arrive in order. */
  const flush = useCallback((): Promise<boolean> => {
    const next = (sending.current ?? Promise.resolve(true)).then(sendAll, sendAll);
    sending.current = next;
    return next;
  }, [sendAll]);

  useEffect(() => {
    void hold(false).then(flush);
    const heartbeat = setInterval(() => void hold(false), HEARTBEAT_MS);
    const online = (): void => void hold(false).then(flush);
    window.addEventListener("online", online);
    return () => {
      clearInterval(heartbeat);
      window.removeEventListener("online", online);
      void releaseJob(job, device).catch(() => undefined);
    };
  }, [job, device, hold, flush]);

  useEffect(() => {
    if (pending.length === 0 || taken) return;
    const retry = setTimeout(() => void flush(), RETRY_MS);
    return () => clearTimeout(retry);
  }, [pending, taken, flush]);

  const write = useCallback(
    async (kind: string, data: Record<string, unknown> = {}): Promise<boolean> => {
      await keep(made(job, kind, data));
      setPending(await pendingOf(job));
      return flush();
    },
    [job, flush],
  );

  return {
    device,
    pending,
    connected,
    taken,
    refused,
    write,
    takeOver: async () => {
      await hold(true);
      await flush();
      await client.invalidateQueries({ queryKey: ["job", job] });
    },
    dropPending: async () => {
      await forget(job, keysOf(pending));
      setPending([]);
      await client.invalidateQueries({ queryKey: ["job", job] });
    },
    forgetRefusal: () => setRefused([]),
  };
}
