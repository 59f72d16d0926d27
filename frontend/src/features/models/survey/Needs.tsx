import type { Operation } from "./document";
import { Pick } from "./Parts";
import { useWalk } from "./useSurvey";

type Needed = NonNullable<Operation["needs"]>;

/** The steps that come before: all of the picked, and of those where one is enough, one. */
export function Needs({ operation, onChange }: { operation: Operation; onChange: (needs: Needed) => void }) {
  const { steps } = useWalk();
  const needs = operation.needs ?? [];
  const all = needs.filter((need) => typeof need === "string");
  const either = needs.filter((need) => typeof need !== "string" && "any" in need);
  const done = needs.flatMap((need) => (typeof need !== "string" && "done" in need ? [need.done] : []));
  const choices = steps
    .filter((step) => step.id !== operation.id)
    .map((step) => ({ value: step.id, label: step.layer ? `${step.layer}: ${step.text}` : step.text }));
  const anew = (next: string[], groups: typeof either, first = done): void =>
    onChange([...next, ...groups.filter((group) => group.any.length > 0), ...first.map((name) => ({ done: name }))]);
  return (
    <>
      <Pick label="Beneath, after" value={all} choices={choices} onChange={(next) => anew(next, either)} />
      {either.map((group, at) => (
        <Pick
          key={at}
          label={`One of these is enough${either.length > 1 ? `, ${at + 1}` : ""}`}
          value={group.any}
          choices={choices}
          onChange={(any) =>
            anew(
              all,
              either.map((other, place) => (place === at ? { any } : other)),
            )
          }
        />
      ))}
      <Pick
        label="Or one of several, begin with"
        value={[]}
        choices={choices}
        onChange={([first]) => first && anew(all, [...either, { any: [first] }])}
      />
      <Pick
        label="Was done before it, whether it has to be is not known"
        value={done}
        choices={choices}
        onChange={(next) => anew(all, either, next)}
      />
    </>
  );
}
