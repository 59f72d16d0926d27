import { useState } from "react";
import { isProblem, type Schemas, sendBundle } from "@/api/client";
import { plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { TextArea, TextField } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { usePageFile } from "./models.queries";

/** Reads a page file: every fault at its line, then saved as a revision or a draft. */
export function YamlSheet({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [text, setText] = useState("");
  const [reason, setReason] = useState("Read from a file");
  const [fault, setFault] = useState<string | null>(null);
  const file = usePageFile();
  const report = file.data;
  const send = (write: boolean, draft: boolean): void => {
    file.mutate({ text, reason, number: report?.known_number ?? null, write, draft });
  };
  const read = async (chosen: File | undefined): Promise<void> => {
    if (!chosen) return;
    file.reset();
    setFault(null);
    try {
      setText(chosen.name.endsWith(".zip") ? (await sendBundle(chosen)).text : await chosen.text());
    } catch (error) {
      setFault(isProblem(error) ? error.message : "the file could not be read");
    }
  };
  return (
    <Sheet
      open={open}
      onClose={onClose}
      title="Read a page file"
      about="YAML as docs/page-format.md describes, or a ZIP with its photos. Check it first; nothing is saved until you say so."
      wide
    >
      <label className="block font-semibold">
        File
        <input
          type="file"
          accept=".yaml,.yml,.zip"
          className="mt-1 block w-full border border-soft p-1 font-normal"
          onChange={(event) => void read(event.target.files?.[0])}
        />
      </label>
      <div className="mt-3">
        <TextArea
          label="Or paste it here"
          rows={8}
          className="code"
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            file.reset();
          }}
        />
      </div>
      <div className="mt-3 flex items-end gap-3">
        <Button disabled={!text.trim() || file.isPending} onClick={() => send(false, false)}>
          Check
        </Button>
        <div className="flex-1">
          <TextField label="Why" value={reason} onChange={(event) => setReason(event.target.value)} />
        </div>
        <Button look="main" disabled={!report?.sound || file.isPending} onClick={() => send(true, false)}>
          Save
        </Button>
        <Button disabled={!report?.name || file.isPending} onClick={() => send(true, true)}>
          Save as draft
        </Button>
      </div>
      {fault && <p className="mt-3 font-semibold text-short">{fault}</p>}
      {file.error && <p className="mt-3 font-semibold text-short">{file.error.message}</p>}
      {report && <Report report={report} />}
    </Sheet>
  );
}

/** What became of a file, in a sentence. */
function outcome(report: Schemas["YamlReport"]): string {
  const { name, saved } = report;
  if (!name) return "This is no page file.";
  if (saved?.changed === false) return `${name} says all of this already: revision ${saved.number} stays.`;
  if (saved) return `${name} saved as revision ${saved.number}${saved.draft ? ", a draft" : ""}.`;
  const known = report.known_number === null ? "A new model." : `Now at revision ${report.known_number}.`;
  return `${name}: ${report.sound ? "sound" : "not sound"}, ${plural(report.faults.length, "remark")}. ${known}`;
}

function Report({ report }: { report: Schemas["YamlReport"] }) {
  return (
    <div className="mt-3">
      <p className="font-semibold">{outcome(report)}</p>
      <ul className="mt-1 max-h-60 overflow-y-auto text-[0.93rem]">
        {report.faults.map((fault) => (
          <li key={`${fault.line}${fault.where}${fault.message}`} className={fault.open ? "text-soft" : "text-short"}>
            line {fault.line}
            {fault.where && <span className="code"> {fault.where}</span>}: {fault.message}; {fault.cure}
          </li>
        ))}
      </ul>
    </div>
  );
}
