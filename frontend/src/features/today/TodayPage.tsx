import { Link, useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { capital, day, longDay, plural, shortDay } from "@/lib/format";
import { useSite } from "@/lib/useSite";
import { Button } from "@/ui/Button";
import { Computing } from "@/ui/Computing";
import { FailedToRead } from "@/ui/FailedToRead";
import { type Due, type Role, type Today, todayKey, useToday } from "./today.queries";

type Session = Schemas["SessionState"];
type Group = Due["group"];

const GROUPS: Record<Group, string> = {
  waiting: "Somebody waits",
  order: "Order",
  send: "Pack and send",
  receive: "Comes in",
  bench: "At the bench",
  shelves: "Count and charge",
  settle: "Settle",
  runs: "Behind the pages",
};

/** One list of what is due now for whoever looks, each line leading to its act; it prints on one sheet. */
export default function TodayPage() {
  const session = useOutletContext<Session>();
  const role = (session.user?.role ?? "reader") as Role;
  const [site] = useSite();
  const today = useToday(role);
  if (today.isError) {
    return <FailedToRead title="Today cannot be told" query={today} />;
  }
  if (!today.data) return <Computing what="Looking through the almanac" queryKey={todayKey(role)} />;
  const here = (one: Due): boolean => !site || one.site === null || one.site === site;
  const due = today.data.due.filter(here);
  return (
    <div className="min-h-0 flex-1 overflow-y-auto p-4">
      <div className="mx-auto max-w-[1180px] min-[1700px]:max-w-none">
        <div className="flex flex-wrap items-baseline justify-between gap-3">
          <h1 className="text-[1.75rem]">Today, {longDay(today.data.as_of)}</h1>
          <Button className="no-print" onClick={() => window.print()}>
            Print
          </Button>
        </div>
        <p className="mt-1 max-w-[70ch] font-serif text-[1.15rem] leading-snug">{sentence(due)}</p>
        <div className="mt-3 gap-x-10 min-[1000px]:columns-2 min-[1700px]:columns-3">
          {(Object.keys(GROUPS) as Group[]).map((group) => (
            <DueGroup key={group} group={group} lines={due.filter((one) => one.group === group)} />
          ))}
        </div>
        <Coming lines={today.data.coming.filter(here)} />
      </div>
    </div>
  );
}

function sentence(due: Due[]): string {
  const late = due.filter((one) => one.late).length;
  const waits = due.filter((one) => one.group === "waiting").length;
  if (due.length === 0) return "Nothing on record is due today for you. What nobody recorded is not in it.";
  const parts = [
    waits > 0 ? `somebody waits for ${plural(waits, "part")}` : "",
    late > 0 ? `${plural(late, "line is", "lines are")} late` : "",
  ].filter(Boolean);
  return `${plural(due.length, "thing")} to do${parts.length > 0 ? `: ${parts.join(", ")}` : ""}.`;
}

function DueGroup({ group, lines }: { group: Group; lines: Due[] }) {
  if (lines.length === 0) return null;
  return (
    <section className="mb-5 break-inside-avoid-column" aria-label={GROUPS[group]}>
      <h2 className="border-b border-ink text-[1.15rem]">
        {GROUPS[group]} <span className="font-sans text-[0.9rem] font-normal text-soft">{lines.length}</span>
      </h2>
      <ul>
        {lines.map((line) => (
          <li key={`${line.path}${line.words}`} className="border-b border-dotted border-rule">
            <Link className="block py-1 hover:bg-pick" to={line.path}>
              <span className="mr-2 hidden size-[11px] border border-ink print:inline-block" />
              <span className={line.late ? "font-semibold text-short" : group === "waiting" ? "font-semibold" : ""}>
                {capital(line.words)}
              </span>
              {line.late && line.on && <span className="text-short">, late since {day(line.on)}</span>}
              {line.more && <span className="text-[0.93rem] text-soft">, {line.more}</span>}
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Coming({ lines }: { lines: Today["coming"] }) {
  if (lines.length === 0) return null;
  return (
    <section aria-label="Within a week" className="mt-2">
      <h2 className="border-b border-ink text-[1.15rem]">Within a week</h2>
      <ul className="gap-x-10 min-[1000px]:columns-2">
        {lines.map((line) => (
          <li
            key={`${line.path}${line.words}`}
            className="break-inside-avoid-column border-b border-dotted border-rule"
          >
            <Link className="grid grid-cols-[5rem_1fr] py-1 hover:bg-pick" to={line.path}>
              <span className="text-soft">{line.on ? shortDay(line.on) : ""}</span>
              <span>
                {capital(line.words)}
                {line.more && <span className="text-soft">, {line.more}</span>}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
