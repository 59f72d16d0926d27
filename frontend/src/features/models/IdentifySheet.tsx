import { useState } from "react";
import { Link } from "react-router";
import { Button } from "@/ui/Button";
import { Sheet } from "@/ui/Sheet";
import type { ModelPageData } from "./models.queries";
import { useIdentify } from "./models.queries";

/** Which of the look-alikes is it: one question at a time, those that need no opening first. */
export function IdentifySheet({ page, onClose }: { page: ModelPageData; onClose: () => void }) {
  const [answered, setAnswered] = useState<Record<string, string>>({});
  const asked = useIdentify([`${page.maker} ${page.name}`], answered);
  const found = asked.data;
  return (
    <Sheet open onClose={onClose} title="Which one is it?">
      {asked.isError && <p className="text-short">{asked.error.message}</p>}
      {found?.key && (
        <div>
          <p className="font-semibold">{found.ask}</p>
          {found.opened && <p className="text-thin">The machine must be open for this.</p>}
          <div className="mt-2 flex flex-wrap gap-2">
            {found.choices.map((choice) => (
              <Button key={choice.value} onClick={() => setAnswered({ ...answered, [found.key ?? ""]: choice.value })}>
                {choice.value}
              </Button>
            ))}
          </div>
        </div>
      )}
      {found && (
        <p className="mt-3">
          {found.candidates.length === 1 ? "It is " : "Still possible: "}
          {found.candidates.map((model, place) => (
            <span key={model.model_id}>
              {place > 0 && ", "}
              <Link className="font-semibold text-accent underline" to={`/models/${model.model_id}`} onClick={onClose}>
                {model.name}
              </Link>
            </span>
          ))}
          .{found.candidates.length > 1 && !found.key && " No recorded fact tells them apart."}
        </p>
      )}
      {Object.keys(answered).length > 0 && (
        <Button look="quiet" className="mt-2" onClick={() => setAnswered({})}>
          Begin again
        </Button>
      )}
    </Sheet>
  );
}
