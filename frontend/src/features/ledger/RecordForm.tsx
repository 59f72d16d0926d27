import { zodResolver } from "@hookform/resolvers/zod";
import { useState } from "react";
import { useFieldArray, useForm } from "react-hook-form";
import { z } from "zod";
import { isProblem, type Problem, type Schemas } from "@/api/client";
import { day } from "@/lib/format";
import { DUTY_NAMES, FINDING_NAMES, FINDINGS } from "@/lib/words";
import { Button } from "@/ui/Button";
import { SelectField, TextArea, TextField } from "@/ui/Field";
import { FoundField, mayBeFound } from "@/ui/FoundField";
import { EvidenceFields, NO_EVIDENCE } from "./EvidenceFields";
import { type AssetCard, useAsset, useRecord } from "./ledger.queries";
import { RecordLine } from "./RecordLine";

z.config({ jitless: true }); // the content-security policy forbids code made from strings

const form = z.object({
  occurred_on: z.iso.date("name the day it happened"),
  reason: z.string().trim().min(1, "say what was noticed, in a few words"),
  finding: z.enum(FINDINGS),
  minutes: z.string().regex(/^\d{0,5}$/, "a whole number of minutes was wanted"),
  note: z.string(),
  last_good_on: z.string(),
  lines: z.array(
    z.object({
      position_id: z.number(),
      action: z.enum(["replaced", "removed", "kept"]),
      part_number: z.string(),
      shelf_site: z.string(),
      serial: z.string(),
    }),
  ),
});
export type RecordValues = z.infer<typeof form>;

const QUESTIONS = ["duplicate", "fit", "serial", "both_failed"] as const;
const ANSWERS: Record<Question, string> = {
  fit: "Yes, it was fitted",
  duplicate: "Yes, record a second one",
  serial: "Yes, record it as read",
  both_failed: "Yes, each of them failed",
};
type Question = (typeof QUESTIONS)[number];

const emptyLine = (position: number): RecordValues["lines"][number] => ({
  position_id: position,
  action: "replaced",
  part_number: "",
  shelf_site: "",
  serial: "",
});

/** What to say of a problem that no field of the form shows. */
function unplaced(problem: Problem | null): string | null {
  if (!problem || QUESTIONS.some((name) => name === problem.question)) return null;
  const other = problem.faults.filter(
    (fault) => !/^(occurred_on|reason|minutes|finding|last_good_on|lines\.\d+\.)/.test(fault.field),
  );
  if (problem.faults.length === 0) return problem.detail;
  return other.length > 0 ? other.map((fault) => fault.message).join(" ") : null;
}

interface FormProps {
  card: AssetCard;
  session: Schemas["SessionState"];
  onDone: (incident: number) => void;
}

function IncidentForm({ card, session, onDone }: FormProps) {
  const first = card.positions.find((position) => position.part_number) ?? card.positions[0];
  const { register, control, handleSubmit, formState, watch, setValue } = useForm<RecordValues>({
    resolver: zodResolver(form),
    defaultValues: {
      occurred_on: session.as_of,
      reason: "",
      finding: "open",
      minutes: "",
      note: "",
      last_good_on: "",
      lines: first ? [emptyLine(first.position_id)] : [],
    },
  });
  const lines = useFieldArray({ control, name: "lines" });
  const record = useRecord();
  const [evidence, setEvidence] = useState(NO_EVIDENCE);
  const [confirmed, setConfirmed] = useState<Question[]>([]);
  const problem = isProblem(record.error) ? record.error : null;
  const question = QUESTIONS.find((name) => name === problem?.question) ?? null;

  const send = (values: RecordValues, answers: Question[]): void =>
    record.mutate(
      {
        ...values,
        tag: card.tag,
        minutes: values.minutes === "" ? null : Number(values.minutes),
        last_good_on: mayBeFound(values.finding) ? values.last_good_on || null : null,
        lines: values.lines.map((line) => ({
          position_id: line.position_id,
          action: line.action,
          part_number: line.action === "replaced" ? line.part_number || null : null,
          shelf_site: line.action === "replaced" ? line.shelf_site || null : null,
          serial: line.serial || null,
          finding: null,
          source: "on_hand",
          removed_to: null,
          removed_serial: null,
          tested: null,
        })),
        confirmed: answers,
        evidence,
      },
      { onSuccess: (done) => onDone(done.incident_id) },
    );
  const confirm = (): void => {
    if (!question) return;
    const answers = [...confirmed, question];
    setConfirmed(answers);
    void handleSubmit((values) => send(values, answers))();
  };
  const free = card.positions.filter(
    (position) => !watch("lines").some((line) => line.position_id === position.position_id),
  );
  return (
    <form className="mt-4 grid gap-4" onSubmit={handleSubmit((values) => send(values, confirmed))} noValidate>
      {lines.fields.map((field, place) => (
        <RecordLine
          key={field.id}
          place={place}
          card={card}
          session={session}
          register={register}
          watch={watch}
          setValue={setValue}
          problem={problem}
          onRemove={lines.fields.length > 1 ? () => lines.remove(place) : null}
        />
      ))}
      {free[0] && (
        <Button
          look="quiet"
          className="justify-self-start px-0!"
          onClick={() => free[0] && lines.append(emptyLine(free[0].position_id))}
        >
          Another position in the same incident
        </Button>
      )}
      <TextField
        label="What was noticed"
        placeholder="runs twenty minutes"
        fault={formState.errors.reason?.message ?? problem?.at("reason")}
        {...register("reason")}
      />
      <div className="grid grid-cols-3 gap-3">
        <SelectField label="Finding" fault={problem?.at("finding")} {...register("finding")}>
          {FINDINGS.map((name) => (
            <option key={name} value={name}>
              {FINDING_NAMES[name]}
            </option>
          ))}
        </SelectField>
        <TextField
          label="Day"
          type="date"
          fault={formState.errors.occurred_on?.message ?? problem?.at("occurred_on")}
          {...register("occurred_on")}
        />
        <TextField
          label="Minutes"
          inputMode="numeric"
          fault={formState.errors.minutes?.message ?? problem?.at("minutes")}
          {...register("minutes")}
        />
      </div>
      {mayBeFound(watch("finding")) && (
        <FoundField max={watch("occurred_on")} fault={problem?.at("last_good_on")} {...register("last_good_on")} />
      )}
      {watch("finding") === "confirmed" && <EvidenceFields value={evidence} onChange={setEvidence} />}
      <TextArea label="Note" rows={2} {...register("note")} />
      {question && (
        <div role="alert" className="border-l-4 border-thin bg-pick p-3">
          <p>{problem?.detail}</p>
          <Button className="mt-2" onClick={confirm}>
            {ANSWERS[question]}
          </Button>
        </div>
      )}
      {unplaced(problem) && (
        <p role="alert" className="font-semibold text-short">
          {unplaced(problem)}
        </p>
      )}
      <Button type="submit" look="main" className="justify-self-start" disabled={record.isPending}>
        {record.isPending ? "Recording…" : "Record the incident"}
      </Button>
    </form>
  );
}

/** Recording an incident: the tag first, then what was done to which position of that machine. */
export function RecordForm({
  session,
  onDone,
}: {
  session: Schemas["SessionState"];
  onDone: (incident: number) => void;
}) {
  const [typed, setTyped] = useState("");
  const [tag, setTag] = useState("");
  const asset = useAsset(tag);
  const missing = isProblem(asset.error) ? asset.error.detail : undefined;
  return (
    <section className="p-4">
      <h2 className="text-[1.4rem]">Record an incident</h2>
      <p className="text-soft">Log, machine and shelf change together, and the outlook with them.</p>
      <form
        className="mt-3 flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          setTag(typed.trim());
        }}
      >
        <div className="w-[200px]">
          <TextField
            label="Asset tag"
            className="code"
            value={typed}
            autoFocus
            onChange={(event) => setTyped(event.target.value)}
            onBlur={() => setTag(typed.trim())}
            placeholder="SK-0417"
            fault={tag && tag === typed.trim() ? missing : undefined}
          />
        </div>
        {asset.data && (
          <p className="pb-1">
            <strong>{asset.data.model}</strong>
            <span className="block text-[0.93rem] text-soft">
              {asset.data.site ?? "at no site"}, {DUTY_NAMES[asset.data.duty]}, in service since{" "}
              {day(asset.data.in_service_on)}
              {asset.data.retired_on && `, retired ${day(asset.data.retired_on)}`}
            </span>
          </p>
        )}
      </form>
      {asset.data && <IncidentForm key={asset.data.tag} card={asset.data} session={session} onDone={onDone} />}
    </section>
  );
}
