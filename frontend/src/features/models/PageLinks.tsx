import { useState } from "react";
import { Link } from "react-router";
import { HistorySheet } from "./HistorySheet";
import type { ModelPageData } from "./models.queries";

/** Where a page leads: its survey, its history, its file, the page it inherits from. */
export function PageLinks({ page }: { page: ModelPageData }) {
  const [history, setHistory] = useState(false);
  const link = "text-accent underline";
  return (
    <p className="no-print ml-auto flex flex-wrap gap-x-3 text-[0.95rem]">
      {page.inherits && page.inherits_id !== null && (
        <span className="text-soft">
          inherits{" "}
          <Link className={link} to={`/models/${page.inherits_id}`}>
            {page.inherits}
          </Link>
        </span>
      )}
      <Link className={link} to={`/models/${page.model_id}/survey`}>
        {page.draft_number ? "Draft in hand" : "Survey"}
      </Link>
      <Link className={link} to={`/models/new?inherits=${encodeURIComponent(`${page.maker} ${page.name}`)}`}>
        Sibling
      </Link>
      <button type="button" className={link} onClick={() => setHistory(true)}>
        Revision {page.number}
      </button>
      <a className={link} href={`/api/v1/models/${page.model_id}/page.yaml`}>
        File
      </a>
      <a className={link} href={`/api/v1/models/${page.model_id}/page.zip`}>
        with photos
      </a>
      <button type="button" className={link} onClick={() => window.print()}>
        Print
      </button>
      {history && <HistorySheet page={page} onClose={() => setHistory(false)} />}
    </p>
  );
}
