import type { Job } from "./local";

type Entry = Job["journal"][number];

const TIME = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });

const text = (value: unknown): string => (typeof value === "string" ? value : "");
const list = (value: unknown): string[] => (Array.isArray(value) ? value.map(String) : []);
const pairs = (value: unknown): string =>
  typeof value === "object" && value !== null
    ? Object.entries(value)
        .map(([name, count]) => `${String(count)} × ${name}`)
        .join(", ")
    : "";

const agreedParts = (value: unknown): string =>
  typeof value === "object" && value !== null
    ? Object.entries(value)
        .map(([place, number]) => `${String(number)} at ${place.replaceAll("_", " ")}`)
        .join(", ")
    : "";

const ENDS: Record<string, string> = {
  found: "found again",
  outside: "lost outside the machine",
  inside: "perhaps inside",
  replaced: "replaced by another",
  left_out: "left out, approved",
};

/** What an entry says, in words. */
function wordsOf(entry: Entry, job: Job): string {
  const data = entry.data;
  const step = job.steps.find((item) => item.id === data.step);
  const say: Record<string, () => string> = {
    step: () => [step?.text ?? text(data.step), ...swapWords(data)].filter(Boolean).join(", "),
    back: () => "one step back",
    gate: () => `gate opened: ${text(data.gate)}`,
    waive: () => `gate waived: ${text(data.gate)}, ${text(data.reason)} (${text(data.name)})`,
    refit: () => `put back: ${[pairs(data.screws), list(data.leads).join(", ")].filter(Boolean).join(", ")}`,
    power_on: () => "the machine came on",
    wait: () => `waits for ${text(data.for)}`,
    park: () => `parked: ${text(data.words)}${data.screws_where ? `; screws in ${text(data.screws_where)}` : ""}`,
    resume: () => "goes on",
    approve: () => `${text(data.gate).replaceAll("_", " ")} approved by ${text(data.name)}: ${text(data.reason)}`,
    screw: () => `${String(data.count ?? 1)} × ${text(data.group)}: ${ENDS[text(data.end)] ?? text(data.end)}`,
    refer: () => `not opened, licensed work: ${list(data.signs).join(", ")}`,
    danger: () => `stopped: pack ${list(data.signs).join(", ")}`,
    release: () =>
      `${text(data.decision) || "released"} by ${text(data.name)}${data.officer ? `, ${text(data.officer)} decided on ${text(data.day)}` : ""}: ${text(data.reason) || text(data.words)}`,
    agree: () => `agreed: ${[text(data.words), agreedParts(data.parts)].filter(Boolean).join("; ")}`,
    note: () => text(data.words) || "photo",
    plan: () => `to reach: ${list(data.targets).join(", ")}${data.reason ? ` (${text(data.reason)})` : ""}`,
    takeover: () => "taken over",
    report: () => `the machine reported (${text(data.source)}${data.form ? `: ${text(data.form)}` : ""})`,
    check: () => `checked: ${Object.keys(data).join(", ")}`,
    settle: () => `settled: ${text(data.position)}, ${text(data.name).replaceAll("_", " ")} ${String(data.value)}`,
    test: () => `test ${text(data.test).replaceAll("_", " ")}: ${text(data.outcome)}`,
    run_time: () =>
      `ran ${text(String(data.minutes))} min from ${String(data.from_percent)} to ${String(data.to_percent)}% (${text(data.conditions)})`,
    correct: () =>
      `corrected: ${[text(data.part_number), data.serial ? `serial ${text(data.serial)}` : "", data.removed_serial ? `out ${text(data.removed_serial)}` : ""].filter(Boolean).join(", ")} (${text(data.reason)})`,
    untest: () => `taken back: ${text(data.test).replaceAll("_", " ")}: ${text(data.outcome)}`,
    cold_start: () => (data.good ? "cold start, good" : "cold start, the fault came back"),
    watch: () => `closed and watched, ${finding(data)}`,
    close: () => `closed, ${finding(data)}`,
    abandon: () =>
      `given up: ${text(data.reason)}${list(data.out).length ? `; out: ${list(data.out).join("; ")}` : ""}`,
  };
  return say[entry.kind]?.() ?? entry.kind;
}

const finding = (data: Entry["data"]): string =>
  [text(data.finding).replaceAll("_", " "), text(data.accept_reason), text(data.note), ...list(data.questions)]
    .filter(Boolean)
    .join(", ");

const swapWords = (data: Entry["data"]): string[] =>
  data.refitted === true
    ? ["the old part stayed"]
    : [
        text(data.part_number),
        data.serial ? `serial ${text(data.serial)}` : "",
        data.result ? `test ${text(data.result)}` : "",
      ];

/** Every entry of the job, first to last, with who wrote it. */
export function Journal({ job }: { job: Job }) {
  if (job.journal.length === 0) return null;
  return (
    <section className="mt-4">
      <h3 className="border-b border-ink text-[1.15rem]">Journal</h3>
      <table className="w-full text-[0.97rem]">
        <tbody>
          {job.journal.map((entry) => (
            <tr key={entry.number} className="border-b border-dotted border-rule align-top">
              <td className="w-8 py-0.5 pr-3 text-right text-soft">{entry.number}</td>
              <td className="w-14 pr-3 whitespace-nowrap text-soft">{TIME.format(new Date(entry.done_at))}</td>
              <td className="pr-3">
                {wordsOf(entry, job)}
                {typeof entry.data.photo === "string" && (
                  <a
                    className="ml-2 text-accent underline"
                    href={`/api/v1/photos/${entry.data.photo}.png`}
                    target="_blank"
                    rel="noreferrer"
                  >
                    photo
                  </a>
                )}
              </td>
              <td className="whitespace-nowrap text-soft">{entry.author}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
