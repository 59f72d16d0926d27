import { useState } from "react";
import { isProblem, type Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextArea } from "@/ui/Field";
import { TouchButton } from "@/ui/Touch";
import { useReport, useStandIn } from "./bench.queries";
import type { Job } from "./local";
import type { Bench } from "./useBench";

const FAULTS = ["memory", "drive", "pack", "fan"] as const;
/** Both reports in lines, what of them is on record otherwise, and what was not understood. */
function MachineSaid({ said }: { said: Job["said"] }) {
  return (
    <>
      {said.questions.map((words) => (
        <p key={words} className="border-l-4 border-thin pl-2 font-semibold text-thin">
          {words}
        </p>
      ))}
      {(["before", "after"] as const).map(
        (when) =>
          said[when].length > 0 && (
            <details key={when}>
              <summary>{when === "before" ? "Before the swap it said" : "It says"}</summary>
              <ul className="ml-4 list-disc">
                {said[when].map((line) => (
                  <li key={line}>{line}</li>
                ))}
              </ul>
            </details>
          ),
      )}
      {said.missed.length > 0 && <p className="text-thin">Not understood, and left out: {said.missed.join("; ")}.</p>}
    </>
  );
}

const TONES: Record<string, string> = { yes: "text-covered", no: "text-short", unknown: "text-thin" };
const MARKS: Record<string, string> = { yes: "as agreed", no: "differs", unknown: "not known" };

/** What the machine says of itself against plan: asked of the machine, or pasted. */
export function ReportPane({ job, bench, touch = true }: { job: Job; bench: Bench; touch?: boolean }) {
  const Act = touch ? TouchButton : Button;
  const [pasting, setPasting] = useState(false);
  const [text, setText] = useState("");
  const [fault, setFault] = useState<(typeof FAULTS)[number] | null>(null);
  const report = useReport(job.id);
  const standIn = useStandIn(job.id);
  const failed = [report.error, standIn.error].find(isProblem);
  return (
    <section aria-label="What the machine reports" className="grid gap-2">
      <h2 className={`border-b ${touch ? "border-rule text-[1.4rem]" : "border-ink text-[1.2rem]"}`}>
        What the machine reports
      </h2>
      {job.report.length > 0 && <Figures figures={job.report} agreed={Object.keys(job.swapped).length > 0} />}
      {job.said.after.length === 0 && (
        <p className="text-soft">Start it once, then ask it, or paste what its own tools print, several in a row.</p>
      )}
      <MachineSaid said={job.said} />
      <div className="flex flex-wrap gap-3">
        <Act disabled={standIn.isPending} onClick={() => standIn.mutate({ device: bench.device, fault })}>
          Ask the machine (simulated)
        </Act>
        <label className="flex items-center gap-2 text-soft">
          which is
          <select
            className={`border-soft bg-leaf px-2 text-ink ${touch ? "min-h-[56px] border-2" : "min-h-[34px] border"}`}
            value={fault ?? ""}
            onChange={(event) => setFault(FAULTS.find((name) => name === event.target.value) ?? null)}
          >
            <option value="">healthy</option>
            {FAULTS.map((name) => (
              <option key={name} value={name}>
                faulty: {name}
              </option>
            ))}
          </select>
        </label>
        <Act onClick={() => setPasting(!pasting)}>Paste a report</Act>
      </div>
      {pasting && (
        <form
          className="grid gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            report.mutate({ device: bench.device, text }, { onSuccess: () => setPasting(false) });
          }}
        >
          <TextArea
            label="What its tools print: lshw, dmidecode, smartctl, nvme, upower, lsblk, sensors, a battery report"
            rows={6}
            className="code"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <Act type="submit" look="main" className="justify-self-start">
            Compare it
          </Act>
        </form>
      )}
      {failed && (
        <p role="alert" className="font-semibold text-short">
          {failed.detail}
        </p>
      )}
    </section>
  );
}

function Figures({ figures, agreed }: { figures: Schemas["FigureView"][]; agreed: boolean }) {
  return (
    <table className="w-full">
      <thead>
        <tr className="border-b border-ink">
          {["", agreed ? "Agreed" : "On record", "Reported", "", ""].map((head, place) => (
            <th key={place} scope="col" className="py-1 pr-3 max-[700px]:pr-1">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {figures.map((item, place) => (
          <tr key={place} className="border-b border-dotted border-rule align-top">
            <th scope="row" className="py-1 pr-3">
              {item.what}
            </th>
            <td className="py-1 pr-3 whitespace-nowrap max-[700px]:whitespace-normal">{item.planned}</td>
            <td className="py-1 pr-3 whitespace-nowrap max-[700px]:whitespace-normal">{item.reported}</td>
            <td className={`pr-3 font-semibold whitespace-nowrap max-[700px]:whitespace-normal ${TONES[item.verdict]}`}>
              {item.verdict === "yes" && !agreed ? "as on record" : MARKS[item.verdict]}
            </td>
            <td className="py-1 text-soft">{item.reason}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
