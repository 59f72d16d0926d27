import type { Page } from "./document";
import { NotesSection } from "./NotesSection";
import { Block } from "./Parts";
import { Rows } from "./Rows";
import { useWalk } from "./useSurvey";

type Claim = NonNullable<Page["claims"]>[number];
type Note = NonNullable<Page["notes"]>[number];

/** Claims of what holds for variants, notes at a step or a part, and notes somebody else wrote. */
export function ClosingStop() {
  const { page, change, positions, steps } = useWalk();
  return (
    <>
      <Block title="Claims" about="said of several variants; those it was seen true of are verified">
        <Rows<Claim>
          one="claim"
          rows={page.claims ?? []}
          columns={[
            { key: "text", label: "What is said", as: "text" },
            { key: "variants", label: "Of the variants", as: "list", hint: "by comma" },
            { key: "verified", label: "Seen true of", as: "list", hint: "by comma" },
          ]}
          name={(row) => row.text ?? ""}
          fresh={() => ({ text: "", variants: [], verified: [] })}
          onChange={(claims) => change({ claims })}
        />
      </Block>
      <Block title="Notes" about="what the maker printed, what surprised: at its step or part">
        <Rows<Note>
          one="note"
          rows={page.notes ?? []}
          columns={[
            { key: "text", label: "Note", as: "text" },
            {
              key: "operation",
              label: "At the step",
              as: "choice",
              choices: steps.map((step) => ({ value: step.id, label: step.text })),
              unsaid: "no step",
            },
            {
              key: "position",
              label: "About the part",
              as: "choice",
              choices: positions.map((part) => ({ value: part.key, label: part.label })),
              unsaid: "no part",
            },
          ]}
          name={(row) => row.text ?? ""}
          fresh={() => ({ text: "" })}
          onChange={(notes) => change({ notes })}
        />
      </Block>
      <NotesSection />
    </>
  );
}
