import { day, figure, moment, percent, plural } from "@/lib/format";
import { DUTY_NAMES, KIND_NAMES } from "@/lib/words";
import type { MachineStanding, RegisterLine, RegisterOrder } from "./fleet.queries";

type Wanted =
  | "job"
  | "stopped"
  | "worn"
  | "warranty"
  | "retiring"
  | "unrecorded"
  | "noted"
  | "asked"
  | "silent"
  | "failed";

export const WANTED_NAMES: Record<Wanted, string> = {
  worn: "pack or drive below its limit",
  failed: "an incident within a year",
  job: "a job is open",
  stopped: "stopped: do not power on",
  noted: "a note says what is left to mend",
  warranty: "a warranty ends within six months",
  retiring: "to be retired within six months",
  unrecorded: "nothing on record in some place",
  asked: "reports otherwise than the record",
  silent: "has not reported for 30 days",
};

export const STANDING_NAMES: Record<MachineStanding, string> = {
  in_use: "in use",
  retired: "retired",
  all: "in use or retired",
};

export interface Column {
  name: string;
  title: string;
  /** By what the register is sorted when the column's head is pressed. */
  sort?: RegisterOrder;
  numeric?: boolean;
  cell: (machine: RegisterLine, asOf: string) => string;
}

const years = (from: string, to: string): number => (Date.parse(to) - Date.parse(from)) / 86_400_000 / 365.25;

/** Columns that can be chosen; the tag always stands first. */
export const COLUMNS: Column[] = [
  { name: "model", title: "Model", sort: "model", cell: (machine) => machine.model },
  { name: "site", title: "Site", sort: "site", cell: (machine) => machine.site ?? "none" },
  {
    name: "age",
    title: "Years",
    sort: "age",
    numeric: true,
    cell: (machine, asOf) => figure(years(machine.in_service_on, asOf), 1),
  },
  { name: "duty", title: "Use", cell: (machine) => DUTY_NAMES[machine.duty] ?? machine.duty },
  {
    name: "failed",
    title: "Incidents, 12 months",
    sort: "failed",
    numeric: true,
    cell: (machine) => (machine.failures ? figure(machine.failures) : ""),
  },
  {
    name: "share",
    title: "Lowest reading",
    cell: (machine) =>
      machine.share === null
        ? ""
        : `${percent(machine.share)} ${(KIND_NAMES[machine.share_kind ?? ""] ?? "").toLowerCase()}`,
  },
  {
    name: "retiring",
    title: "To be retired",
    sort: "retiring",
    cell: (machine) => (machine.retire_planned_on ? day(machine.retire_planned_on) : ""),
  },
  {
    name: "warranty",
    title: "Warranty ends",
    cell: (machine) => (machine.warranty_until ? day(machine.warranty_until) : ""),
  },
  { name: "serial", title: "Serial", cell: (machine) => machine.serial ?? "" },
  {
    name: "reported",
    title: "Reported",
    cell: (machine) => (machine.reported_at ? moment(machine.reported_at) : ""),
  },
];

export const USUAL = ["model", "site", "age", "duty"];

/** The columns that an address names, in the order they are declared; the usual ones where it names none. */
export function columnsOf(text: string): Column[] {
  const wanted = text ? text.split(",") : USUAL;
  return COLUMNS.filter((column) => wanted.includes(column.name));
}

/** What is to be known of a machine beside its columns. */
export function marksOf(machine: RegisterLine): string[] {
  return [
    machine.retired_on ? `retired ${day(machine.retired_on)}` : "",
    machine.job_id ? "job open" : "",
    machine.notes ? "note" : "",
    machine.questions ? plural(machine.questions, "question") : "",
  ].filter(Boolean);
}

/** The years of a band in words: 0 to 1, or 7 and more. */
export const bandWords = (from: number, last: boolean): string => (last ? `${from}+` : `${from}–${from + 1}`);
