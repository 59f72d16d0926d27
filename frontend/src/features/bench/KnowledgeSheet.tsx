import { useState } from "react";
import { isProblem } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextArea } from "@/ui/Field";
import { Sheet } from "@/ui/Sheet";
import { useKeepKnowledge, useKnowledge } from "./bench.queries";

/** The company's own knowledge of symptoms, as a file to edit; a fault is named at its place and nothing is lost. */
export function KnowledgeSheet({ onClose }: { onClose: () => void }) {
  const shown = useKnowledge(true);
  const keep = useKeepKnowledge();
  const [text, setText] = useState<string | null>(null);
  const problem = isProblem(keep.error) ? keep.error : null;
  return (
    <Sheet open onClose={onClose} wide title="What is known of symptoms" about="Explained in docs/diagnosis.md.">
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate(text ?? shown.data?.text ?? "", { onSuccess: onClose });
        }}
      >
        <TextArea
          label="Symptoms, causes and tests (YAML)"
          rows={22}
          className="code"
          spellCheck={false}
          fault={problem?.detail}
          value={text ?? shown.data?.text ?? ""}
          onChange={(event) => setText(event.target.value)}
        />
        <div className="flex gap-3">
          <Button type="submit" look="main" disabled={keep.isPending}>
            Keep it from today on
          </Button>
          <Button onClick={onClose}>Cancel</Button>
        </div>
      </form>
    </Sheet>
  );
}
