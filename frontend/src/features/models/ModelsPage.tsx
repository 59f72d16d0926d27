import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { FailedToRead } from "@/ui/FailedToRead";
import { Nothing, Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { ComparePage } from "./ComparePage";
import { LineUpPage } from "./LineUpPage";
import { ModelIndex } from "./ModelIndex";
import { ModelPlate } from "./ModelPlate";
import { useModelPage, useModels } from "./models.queries";
import { RoutePage } from "./RoutePage";

/** The models tab: the index on the left, on the right a model's page, a route, a comparison or the line-up. */
export default function ModelsPage() {
  const { view, part } = useParams();
  const [params] = useSearchParams();
  const words = params.get("q") ?? "";
  const index = useModels(words);
  const navigate = useNavigate();
  const [compared, setCompared] = useState<number[]>(() => comparedIn(params.get("models")));
  if (index.isError) {
    return <FailedToRead title="No catalog" query={index} />;
  }
  if (!index.data) return <Waiting what="Reading the catalog" />;
  const rows = index.data.models;
  const chosen = view && /^\d+$/.test(view) ? Number(view) : view ? null : (rows[0]?.model_id ?? null);
  const open = (id: number): void => {
    void navigate({ pathname: `/models/${id}`, search: keep(params, ["q", "takes", "held", "site"]) });
  };
  return (
    <Spread
      name="models"
      share={25}
      least={20}
      leftLabel="Index of models"
      turned={view ?? part}
      rightLabel="Model"
      left={
        <ModelIndex
          rows={rows}
          words={words}
          chosen={chosen}
          compared={compared}
          onCompare={setCompared}
          onOpen={open}
        />
      }
      right={<Right view={view} part={part} chosen={chosen} />}
    />
  );
}

function Right({ view, part, chosen }: { view: string | undefined; part: string | undefined; chosen: number | null }) {
  if (view === "compare") return <ComparePage />;
  if (view === "line-up") return <LineUpPage />;
  if (chosen === null) return <Nothing>No model answers these words. Take some away, or begin a new page.</Nothing>;
  return <OneModel id={chosen} part={part} />;
}

function OneModel({ id, part }: { id: number; part: string | undefined }) {
  const page = useModelPage(id);
  if (page.isError) {
    return <FailedToRead title="No page" query={page} />;
  }
  if (!page.data) return <Waiting what="Opening the page" />;
  return part === "route" ? <RoutePage page={page.data} /> : <ModelPlate page={page.data} />;
}

const comparedIn = (text: string | null): number[] =>
  text ? text.split(",").map(Number).filter(Number.isInteger) : [];

/** The part of an address that stays when another page is opened. */
export function keep(params: URLSearchParams, names: string[]): string {
  const kept = new URLSearchParams();
  for (const name of names) {
    const value = params.get(name);
    if (value) kept.set(name, value);
  }
  return kept.toString();
}
