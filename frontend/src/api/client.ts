import createClient, { type Middleware } from "openapi-fetch";
import { answered, computing, givenUp } from "./answers";
import type { components, paths } from "./schema";

/** The only module that fetches. Everything else calls `api` through a query file of its feature. */

export type Schemas = components["schemas"];

export interface Fault {
  field: string;
  message: string;
}

/** A reply that refuses: problem details (RFC 9457) with a fault for each place that is wrong. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly faults: Fault[],
    readonly question: string | null,
  ) {
    super(detail || title);
  }

  /** The message for one field, if the reply names it. */
  at(field: string): string | undefined {
    return this.faults.find((fault) => fault.field === field)?.message;
  }
}

interface ProblemBody {
  title?: string;
  detail?: string;
  faults?: Fault[];
  question?: string;
  request_id?: string;
}

let csrfToken = "";

export function rememberToken(token: string): void {
  csrfToken = token;
}

async function problemOf(response: Response): Promise<Problem> {
  const body = (await response.json().catch(() => ({}))) as ProblemBody;
  const title = body.title ?? "The server did not answer as expected";
  // With its number a fault of the server is found in the log.
  const number = response.status >= 500 && body.request_id ? ` Request ${body.request_id}.` : "";
  return new Problem(response.status, title, (body.detail ?? "") + number, body.faults ?? [], body.question ?? null);
}

/** Keys of requests that write and have not been answered well yet, by what they ask: sent again, they are the same request. */
const asked = new Map<string, string>();
const intents = new WeakMap<Request, string>();

/** The key of what a request asks: a second click while the first is under way, or a second try after no answer, has the same. */
async function keyOf(request: Request): Promise<string> {
  const intent = `${request.method} ${request.url} ${await request.clone().text()}`;
  const key = asked.get(intent) ?? crypto.randomUUID();
  asked.set(intent, key);
  intents.set(request, intent);
  return key;
}

const COMPUTING = 202;
const ASK_AGAIN_MS = 700;

/** A first answer that is being computed: it is asked for until it is there, or until nobody wants it any more. */
async function waitFor(request: Request, response: Response): Promise<Response> {
  let found = response;
  try {
    while (found.status === COMPUTING) {
      computing(request.url, await found.json());
      await new Promise((resolve) => setTimeout(resolve, ASK_AGAIN_MS));
      request.signal.throwIfAborted();
      found = await fetch(repeats.get(request)?.clone() ?? request.url, { signal: request.signal });
    }
    return found;
  } catch (error) {
    givenUp(request.url);
    throw error;
  }
}

/** Requests as they were sent, to be sent again. */
const repeats = new WeakMap<Request, Request>();

const UNATTENDED_MS = 60_000;
let attendedAt = Date.now();
for (const sign of ["pointerdown", "pointermove", "keydown", "wheel", "touchstart"]) {
  globalThis.addEventListener?.(sign, () => (attendedAt = Date.now()), { passive: true });
}

const guard: Middleware = {
  async onRequest({ request }) {
    // A page left open asks for newer figures by itself; that keeps nobody signed in.
    if (Date.now() - attendedAt > UNATTENDED_MS) request.headers.set("X-Unattended", "yes");
    if (request.method !== "GET") {
      request.headers.set("X-CSRF-Token", csrfToken);
      request.headers.set("Idempotency-Key", await keyOf(request));
    }
    repeats.set(request, request.clone());
    return request;
  },
  async onResponse({ request, response }) {
    // Once it is carried out, the same wish is a new one; a refusal carried nothing out.
    const intent = intents.get(request);
    if (intent && response.ok) asked.delete(intent);
    const found = response.status === COMPUTING ? await waitFor(request, response) : response;
    if (!found.ok) throw await problemOf(found);
    const newer = found.headers.get("Almanac-Newer") !== null;
    answered(request.url, newer ? found.headers.get("Almanac-Made-At") : null, found.headers.get("ETag"));
    return found;
  },
  onError() {
    return new Problem(0, "No connection", "The server does not answer. Nothing was saved; try again.", [], null);
  },
};

export const api = createClient<paths>({ baseUrl: "/" });
api.use(guard);

/** The body of a reply; refusals have already been thrown. */
export function body<T>(reply: { data?: T }): T {
  if (reply.data === undefined) throw new Problem(0, "Empty reply", "The server sent no answer. Try again.", [], null);
  return reply.data;
}

/** Files go as multipart form data, which the typed client does not build. */
async function sendForm<T>(path: string, fields: Record<string, File | string | File[]>): Promise<T> {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields)) {
    for (const one of Array.isArray(value) ? value : [value]) {
      if (one instanceof File) form.append(name, one, one.name);
      else form.append(name, one);
    }
  }
  const response = await fetch(path, { method: "POST", body: form, headers: { "X-CSRF-Token": csrfToken } });
  if (!response.ok) throw await problemOf(response);
  return (await response.json()) as T;
}

export const sendFiles = (files: File[], write: boolean): Promise<Schemas["ImportReportView"]> =>
  sendForm(`/api/v1/imports?write=${write}`, { files });

export function isProblem(error: unknown): error is Problem {
  return error instanceof Problem;
}

/** A photo is kept as PNG without its metadata; equal photos are kept once. */
export const sendPhoto = (photo: File): Promise<Schemas["PhotoStored"]> => sendForm("/api/v1/photos", { photo });

/** How the columns and words of an old log are meant; columns are null while they are to be proposed. */
export interface OldLogMeaning {
  columns: Record<string, string> | null;
  findings: Record<string, string>;
  day_first: boolean;
  write: boolean;
}

/** An old log with how its columns are meant; it is previewed unless `write` is asked for. */
export const sendOldLog = (file: File, meaning: OldLogMeaning): Promise<Schemas["OldLogView"]> =>
  sendForm("/api/v1/log/old", { file, meaning: JSON.stringify(meaning) });

/** A file of counts, acts or order lines: all of it is carried out, or nothing. */
export const sendStoreFile = (name: string, file: File): Promise<Schemas["FileTaken"]> =>
  sendForm(`/api/v1/stores/files/${name}`, { file });

/** What a person says of a list: its columns, the order of its days, what its names mean ("-" for none of ours), and of missing machines. */
export interface ListSettled {
  sheet: string | null;
  columns: Record<string, string>;
  day_first: boolean | null;
  names: Record<string, Record<string, string>>;
  gone: "leave" | "on" | "spread" | null;
  /** New machines hold what their model is delivered with, where that is beyond doubt. */
  delivered: boolean | null;
  /** The sign before decimals. */
  decimal: "," | "." | null;
}

export interface ListSaid {
  /** What it is a list of; null where its header is to tell. */
  kind: string | null;
  source: string;
  list_on: string;
  settled: ListSettled;
  digest: string | null;
}

/** A list as the company has it, with what is said of it. */
export const sendList = <Reply>(path: string, file: File, said: ListSaid): Promise<Reply> =>
  sendForm(path, { file, said: JSON.stringify(said) });

type ListWork = Schemas["ListWorkView"];

/** A long list, looked at or applied by a worker: told how far that is until it is there, or until nobody wants it any more. */
export async function workOnList(
  what: "look" | "apply",
  file: File,
  said: ListSaid,
  told: (work: ListWork | null) => void,
): Promise<ListWork> {
  return whenEnded(await sendForm<ListWork>("/api/v1/lists/long", { file, what, said: JSON.stringify(said) }), told);
}

/** A list that a worker is at, asked for until it is over. */
export async function whenEnded(begun: ListWork, told: (work: ListWork | null) => void): Promise<ListWork> {
  let found = begun;
  try {
    while (!found.ended) {
      told(found);
      await new Promise((resolve) => setTimeout(resolve, ASK_AGAIN_MS));
      found = await listWork(found.id);
    }
  } finally {
    told(null);
  }
  const wrong = found.problem;
  if (wrong) throw new Problem(wrong.status, wrong.title, wrong.detail, wrong.faults, wrong.question);
  return found;
}

export const listWork = async (id: number): Promise<ListWork> =>
  body(await api.GET("/api/v1/lists/long/{work_id}", { params: { path: { work_id: id } } }));

/** The text of a page that was exported with its photos, which are kept as it is read. */
export const sendBundle = (file: File): Promise<Schemas["BundleText"]> => sendForm("/api/v1/pages/bundle", { file });

/** A page document kept in this browser, as it was stored here; null where there is none or it is damaged. */
export interface StoredDocument {
  page: Schemas["Page"];
  number: number | null;
  /** Lines that were typed and not read yet, by where. */
  typed: Record<string, string>;
}

export function storedDocument(text: string | null): StoredDocument | null {
  if (!text) return null;
  try {
    const found = JSON.parse(text) as StoredDocument;
    return typeof found.page === "object" && found.page !== null ? { ...found, typed: found.typed ?? {} } : null;
  } catch {
    return null;
  }
}

/** A whole company, read into an empty one: all of it, or nothing. */
export const sendCompany = (file: File): Promise<Schemas["ArchiveRead"]> =>
  sendForm("/api/v1/company/archive", { file });
