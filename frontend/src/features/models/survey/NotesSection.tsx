import { useState } from "react";
import type { Schemas } from "@/api/client";
import { factName } from "@/lib/words";
import { Button } from "@/ui/Button";
import { TextArea } from "@/ui/Field";
import { useProposals } from "../models.queries";
import type { Page } from "./document";
import { Block } from "./Parts";
import { accepted } from "./proposals";
import { useWalk } from "./useSurvey";

type Proposal = Schemas["ProposalView"];

/** Pasted or dictated notes become proposals graded "told"; each is accepted or refused. */
export function NotesSection() {
  const { page, change, evidence, today } = useWalk();
  const [text, setText] = useState("");
  const [settled, setSettled] = useState<number[]>([]);
  const propose = useProposals();
  const positions = (page.positions ?? []).map((entry) => ({ key: entry.key, kind: entry.kind, label: entry.label }));
  const left = (propose.data?.proposals ?? []).filter((item) => !settled.includes(item.line));
  const settle = (line: number): void => setSettled([...settled, line]);
  return (
    <Block title="Notes of others" about="paste what somebody wrote or dictated">
      <TextArea label="Pasted notes" rows={4} value={text} onChange={(event) => setText(event.target.value)} />
      <Button
        className="mt-2"
        disabled={!text.trim() || propose.isPending}
        onClick={() => {
          setSettled([]);
          propose.mutate({ text, positions });
        }}
      >
        Propose
      </Button>
      <ul className="mt-2">
        {left.map((item) => (
          <ProposalCard
            key={item.line}
            item={item}
            page={page}
            onAccept={(target) => {
              change((now) => accepted(now, item, target, { ...evidence, grade: "told", date: today }));
              settle(item.line);
            }}
            onRefuse={() => settle(item.line)}
          />
        ))}
        {propose.data && left.length === 0 && <li className="text-soft">All are settled.</li>}
      </ul>
    </Block>
  );
}

interface CardProps {
  item: Proposal;
  page: Page;
  onAccept: (target: string) => void;
  onRefuse: () => void;
}

function ProposalCard({ item, page, onAccept, onRefuse }: CardProps) {
  const choices =
    item.field === "facts"
      ? (page.positions ?? []).map((entry) => ({ id: entry.key, label: entry.label }))
      : item.field === "fasteners"
        ? (page.operations ?? []).map((entry) => ({ id: entry.id, label: entry.text }))
        : [];
  const [target, setTarget] = useState(item.target ?? "");
  const needsTarget = item.field !== "note";
  return (
    <li className="border-b border-dotted border-rule py-1.5">
      <p className="text-soft">“{item.text}”</p>
      <p>{proposalWords(item)}</p>
      {item.flags.map((flag) => (
        <p key={flag} className="text-thin">
          {flag}
        </p>
      ))}
      <div className="mt-1 flex flex-wrap items-center gap-2">
        {needsTarget && (
          <select
            aria-label="Where it belongs"
            className="min-w-0 flex-1 border border-soft bg-leaf px-1 py-1"
            value={target}
            onChange={(event) => setTarget(event.target.value)}
          >
            <option value="">choose where it belongs</option>
            {choices.map((choice) => (
              <option key={choice.id} value={choice.id}>
                {choice.label}
              </option>
            ))}
          </select>
        )}
        <Button disabled={needsTarget && !target} onClick={() => onAccept(target)}>
          Accept
        </Button>
        <Button look="quiet" onClick={onRefuse}>
          Refuse
        </Button>
      </div>
    </li>
  );
}

function proposalWords(item: Proposal): string {
  if (item.field === "note") return "kept as a note";
  if (item.field === "fasteners") return `${String(item.value.total)} fasteners`;
  return Object.entries(item.value)
    .map(([name, value]) => `${factName(name)} ${String(value)}`)
    .join(", ");
}
