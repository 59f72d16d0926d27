import { useState } from "react";
import { Link, useOutletContext } from "react-router";
import type { Schemas } from "@/api/client";
import { capital, day, figure, moment, percent, plural } from "@/lib/format";
import { AskSheet, ValueField } from "@/shared/AskSheet";
import { Button } from "@/ui/Button";
import { FailedToRead } from "@/ui/FailedToRead";
import { Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { useReports, useSettleQuestion } from "./fleet.queries";
import { Keys } from "./Keys";

type Session = Schemas["SessionState"];
type Question = Schemas["ReportQuestionView"];

/** Machines that report by themselves: what they say otherwise than the record, who reports at all, and keys for programs. */
export default function ReportsPage() {
  const session = useOutletContext<Session>();
  return (
    <Spread
      name="reports"
      share={60}
      leftLabel="Machine reports"
      rightLabel="Keys"
      left={<Reports session={session} />}
      right={<Keys session={session} />}
    />
  );
}

function Reports({ session }: { session: Session }) {
  const found = useReports();
  const [asked, setAsked] = useState<Question | null>(null);
  const settles = session.user?.role !== "reader";
  if (found.isError) {
    return <FailedToRead title="Reports cannot be shown" query={found} />;
  }
  if (!found.data) return <Waiting what="Reading what machines report" />;
  const { total, questions, strangers } = found.data;
  return (
    <div className="p-4">
      <p>
        <Link className="text-accent underline" to="/fleet">
          Fleet
        </Link>
      </p>
      <h1 className="text-[1.75rem]">Machine reports</h1>
      <Sentence found={found.data} />
      {questions.length > 0 && (
        <table className="mt-3 w-full">
          <thead>
            <tr className="border-b border-ink">
              <th scope="col">Machine</th>
              <th scope="col">It says otherwise than the record</th>
              <th scope="col">Since</th>
              <th scope="col">
                <span className="sr-only">What holds</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {questions.map((question) => (
              <tr key={question.id} className="border-b border-dotted border-rule align-top">
                <th scope="row" className="py-1 pr-3 font-normal">
                  <Link className="code text-accent underline" to={`/machines/${encodeURIComponent(question.tag)}`}>
                    {question.tag}
                  </Link>
                  <span className="block text-[0.9rem] text-soft">
                    {question.model}
                    {question.site ? `, ${question.site}` : ""}
                  </span>
                </th>
                <td className="py-1 pr-3">{capital(question.words)}</td>
                <td className="py-1 pr-3 whitespace-nowrap">{day(question.raised_on)}</td>
                <td className="py-1 text-right whitespace-nowrap">
                  {settles && (
                    <>
                      <Link
                        className="mr-3 text-accent underline"
                        to={`/ledger/new?tag=${encodeURIComponent(question.tag)}`}
                      >
                        Record what happened
                      </Link>
                      <Button look="quiet" onClick={() => setAsked(question)}>
                        As on record
                      </Button>
                    </>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {total > questions.length && <p className="mt-2 text-soft">The oldest {questions.length} are shown.</p>}
      <Strangers strangers={strangers} />
      <HowTo />
      {asked && <SettleSheet question={asked} onClose={() => setAsked(null)} />}
    </div>
  );
}

function Sentence({ found }: { found: Schemas["ReportsView"] }) {
  const { ever, lately, in_use, total } = found;
  return (
    <p className="mt-1 max-w-[64ch] font-serif text-[1.15rem] leading-snug">
      {ever === 0 ? (
        <>
          <strong>No machine reports by itself yet.</strong>{" "}
          {in_use > 0 && `What wears in ${plural(in_use, "machine")} is known only from what people read and type.`}
        </>
      ) : (
        <>
          <strong>{plural(lately, "machine")}</strong> of {figure(in_use)} reported within a week
          {in_use > 0 ? ` (${percent(lately / in_use)})` : ""}
          {ever > lately ? `, ${figure(ever - lately)} more did before` : ""}.{" "}
          {total > 0 ? (
            <strong className="text-thin">
              {plural(total, "thing")} they say {total === 1 ? "is" : "are"} on record otherwise.
            </strong>
          ) : (
            "Nothing they say is on record otherwise."
          )}
        </>
      )}
    </p>
  );
}

function Strangers({ strangers }: { strangers: Schemas["StrangerView"][] }) {
  if (strangers.length === 0) return null;
  return (
    <section className="mt-5" aria-label="Machines that are not on record">
      <h2 className="font-sans text-[1rem] font-semibold">
        {plural(strangers.length, "machine reports", "machines report")} and {strangers.length === 1 ? "is" : "are"} not
        on record
      </h2>
      <ul>
        {strangers.map((stranger) => (
          <li key={stranger.calls_itself} className="border-b border-dotted border-rule py-1">
            <span className="code font-semibold">{stranger.calls_itself}</span>, {moment(stranger.reported_at)}
            <span className="block text-soft">{stranger.says.join("; ") || "says nothing that is read"}</span>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-soft">
        Bought, borrowed or relabelled? A machine list puts them on record (Import own data).
      </p>
    </section>
  );
}

function HowTo() {
  return (
    <section className="mt-5 max-w-[70ch]" aria-label="How machines report">
      <h2 className="font-sans text-[1rem] font-semibold">How a machine reports</h2>
      <p>
        Copy{" "}
        <a className="text-accent underline" href="/api/v1/machine-reports/almanac-report" download>
          almanac-report
        </a>
        , one shell script, to it. Run as it is, it shows all that would be sent and sends nothing:
      </p>
      <pre className="code mt-1 border border-rule bg-paper p-2 break-all whitespace-pre-wrap">
        {`sudo ./almanac-report\nsudo ./almanac-report --send --url ${window.location.origin} --key /etc/almanac-key --spread 60`}
      </pre>
      <p className="mt-1 text-soft">
        The second line belongs into a nightly timer; the file holds a key for reports. Serials nobody had read and
        readings of packs and drives go on record by themselves, a part is read once a week at most. What is on record
        otherwise is asked here, and nothing of it is written.
      </p>
    </section>
  );
}

function SettleSheet({ question, onClose }: { question: Question; onClose: () => void }) {
  const [reason, setReason] = useState("");
  const settle = useSettleQuestion();
  return (
    <AskSheet
      title={`${question.tag} is as on record`}
      about={`It says: ${question.words} The same words are not asked again.`}
      label="It is as on record"
      sending={settle}
      fields={["reason"]}
      onSend={() => settle.mutate({ id: question.id, reason }, { onSuccess: onClose })}
      onClose={onClose}
    >
      {(problem) => (
        <ValueField label="Why" value={reason} fault={problem?.at("reason")} onValue={setReason} autoFocus />
      )}
    </AskSheet>
  );
}
