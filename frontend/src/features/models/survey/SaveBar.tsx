import { useState } from "react";
import { useNavigate } from "react-router";
import { isProblem } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { useSavePage } from "../models.queries";
import type { Survey } from "./useSurvey";

/** Saves what is on the screen: the page, and the lines typed beside it and not read yet. */
export function SaveBar({ survey, model }: { survey: Survey; model: number | null }) {
  const [reason, setReason] = useState("");
  const save = useSavePage();
  const navigate = useNavigate();
  const lines = Object.entries(survey.typed).map(([where, text]) => ({ place: placeOf(where), text }));
  const send = (draft: boolean): void =>
    save.mutate(
      { page: survey.page, reason, number: survey.number, draft, lines },
      {
        onSuccess: (saved) => {
          survey.forget();
          void navigate(`/models/${saved.model_id}`);
        },
      },
    );
  const problem = save.error && isProblem(save.error) ? save.error : null;
  return (
    <section aria-label="Save" className="border-b border-ink pb-3">
      <TextField
        label="Why this change"
        value={reason}
        fault={problem?.at("reason")}
        hint="kept in the history beside your name"
        onChange={(event) => setReason(event.target.value)}
      />
      {lines.length > 0 && (
        <p className="mt-1 text-soft">
          {lines.length === 1 ? "One typed line is" : `${lines.length} typed lines are`} read as the page is saved: “
          {lines.map((line) => line.text).join("”, “")}”
        </p>
      )}
      <div className="mt-2 flex gap-2">
        <Button look="main" disabled={save.isPending || !reason.trim()} onClick={() => send(false)}>
          {model === null ? "Publish the page" : "Save the page"}
        </Button>
        <Button disabled={save.isPending || !reason.trim()} onClick={() => send(true)}>
          Save as draft
        </Button>
      </div>
      {problem && (
        <div role="alert" className="mt-2 border-l-4 border-short bg-pick px-2 py-1">
          <p className="font-semibold text-short">
            {problem.status === 409 ? problem.detail : "Not saved, nothing is lost:"}
          </p>
          <ul>
            {problem.faults.slice(0, 8).map((fault) => (
              <li key={`${fault.field}${fault.message}`}>
                <span className="code">{fault.field}</span> {fault.message}
              </li>
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}

/** Where a typed line stands; one that is being read has its number behind. */
const placeOf = (where: string): string[] => JSON.parse(where.split("\n")[0] ?? "[]") as string[];
