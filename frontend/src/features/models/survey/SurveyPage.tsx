import { useState } from "react";
import { Link, useNavigate, useOutletContext, useParams, useSearchParams } from "react-router";
import { isProblem, type Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { TextField } from "@/ui/Field";
import { Failed, Nothing, Waiting } from "@/ui/Notice";
import { Spread } from "@/ui/Spread";
import { useDocument, useModels, useSavePage } from "../models.queries";
import { ChecksPane } from "./ChecksPane";
import { emptyPage, type Page } from "./document";
import { IdentitySection } from "./IdentitySection";
import { NotesSection } from "./NotesSection";
import { OpeningSection } from "./OpeningSection";
import { OperationsSection } from "./OperationsSection";
import { PositionsSection } from "./PositionsSection";
import { type Survey, useSurvey } from "./useSurvey";

type Session = Schemas["SessionState"];

/** Writing a page by walking the machine: identity, how it opens, positions, steps. */
export default function SurveyPage() {
  const { id } = useParams();
  const session = useOutletContext<Session>();
  if (session.user?.role === "reader") {
    return <Nothing>A survey is written by technicians and leads. You are signed in as a reader.</Nothing>;
  }
  return id ? <KnownModel id={Number(id)} session={session} /> : <NewModel session={session} />;
}

function KnownModel({ id, session }: { id: number; session: Session }) {
  const document = useDocument(id);
  if (document.isError) return <Failed title="No page" detail={document.error.message} />;
  if (!document.data) return <Waiting what="Fetching the page" />;
  const { page, number, sibling } = document.data;
  return (
    <Desk key={id} name={String(id)} begun={page} number={number} model={id} sibling={sibling} session={session} />
  );
}

function NewModel({ session }: { session: Session }) {
  const [params] = useSearchParams();
  const inherits = params.get("inherits");
  const sibling = useSibling(inherits);
  if (inherits && !sibling) return <Waiting what="Fetching the sibling" />;
  const evidence = { grade: "measured" as const, source: session.user?.name ?? "", date: session.as_of };
  const name = inherits ? `new.${inherits}` : "new";
  const begun = emptyPage(evidence, inherits);
  return <Desk key={name} name={name} begun={begun} number={null} model={null} sibling={sibling} session={session} />;
}

/** The whole page of a model by maker and name, for a new page that inherits from it. */
function useSibling(name: string | null): Page | null {
  const index = useModels("");
  const row = name ? index.data?.models.find((model) => `${model.maker} ${model.name}` === name) : undefined;
  const document = useDocument(row?.model_id ?? null);
  return document.data ? (document.data.sibling ?? document.data.page) : null;
}

interface DeskProps {
  name: string;
  begun: Page;
  number: number | null;
  model: number | null;
  sibling: Page | null;
  session: Session;
}

function Desk({ name, begun, number, model, sibling, session }: DeskProps) {
  const survey = useSurvey(name, begun, number);
  const today = session.as_of;
  const mine = { grade: "measured" as const, source: session.user?.name ?? "", date: today };
  const evidence = survey.page.evidence ?? mine;
  const section = { page: survey.page, change: survey.change, evidence };
  return (
    <Spread
      name="survey"
      share={62}
      leftLabel="Survey"
      rightLabel="What is still missing"
      left={
        <div className="p-4">
          <Head survey={survey} model={model} />
          <IdentitySection {...section} fixed={model !== null} today={today} />
          <OpeningSection {...section} />
          <PositionsSection {...section} sibling={sibling} />
          <OperationsSection {...section} sibling={sibling} />
        </div>
      }
      right={
        <div className="p-4">
          <SaveBar survey={survey} model={model} />
          <ChecksPane page={survey.page} />
          <NotesSection {...section} today={today} />
        </div>
      }
    />
  );
}

function Head({ survey, model }: { survey: Survey; model: number | null }) {
  const title = [survey.page.maker, survey.page.name].filter(Boolean).join(" ");
  return (
    <header className="flex flex-wrap items-baseline gap-x-4 border-b border-rule pb-1">
      <h1 className="text-[1.75rem]">{model === null && !title ? "New model" : `Survey, ${title}`}</h1>
      <p className="text-soft">{survey.unsaved ? "not saved yet, kept in this browser" : "nothing changed"}</p>
      <Link className="ml-auto text-accent underline" to={model ? `/models/${model}` : "/models"}>
        leave
      </Link>
      {survey.unsaved && (
        <Button look="quiet" onClick={survey.forget}>
          Throw changes away
        </Button>
      )}
    </header>
  );
}

function SaveBar({ survey, model }: { survey: Survey; model: number | null }) {
  const [reason, setReason] = useState("");
  const save = useSavePage();
  const navigate = useNavigate();
  const send = (draft: boolean): void =>
    save.mutate(
      { page: survey.page, reason, number: survey.number, draft },
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
