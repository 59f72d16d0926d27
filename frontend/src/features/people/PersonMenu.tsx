import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { isProblem } from "@/api/client";
import { plural } from "@/lib/format";
import { Button } from "@/ui/Button";
import { Sheet } from "@/ui/Sheet";
import {
  type Person,
  type PersonLink,
  useEndPerson,
  useLetIn,
  useLetOut,
  useMakeLink,
  useSignOutPerson,
  useTakeBack,
} from "./people.queries";

const MENU = "z-50 min-w-[220px] border border-ink bg-leaf p-1 shadow-[3px_3px_0_rgb(0_0_0/0.15)]";
const ITEM = "cursor-pointer px-2 py-1 outline-none data-[highlighted]:bg-pick";

interface PersonMenuProps {
  person: Person;
  /** What people may sign in through, as it is called. */
  provider: string | null;
  onEdit: () => void;
  onLink: (link: PersonLink) => void;
}

/** What can be done about one person. */
export function PersonMenu({ person, provider, onEdit, onLink }: PersonMenuProps) {
  const makeLink = useMakeLink();
  const back = useTakeBack();
  const signOut = useSignOutPerson();
  const letIn = useLetIn();
  const letOut = useLetOut();
  const [ending, setEnding] = useState(false);
  if (!person.active) {
    return (
      <Button onClick={() => back.mutate(person.id, { onSuccess: onLink })} disabled={back.isPending}>
        Take back<span className="sr-only"> {person.name}</span>
      </Button>
    );
  }
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="min-h-[24px] text-accent underline" aria-label={`Act on ${person.name}`}>
          act ▾
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" className={MENU}>
            <DropdownMenu.Item className={ITEM} onSelect={onEdit}>
              Name, role, sites
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} onSelect={() => makeLink.mutate(person.id, { onSuccess: onLink })}>
              Link to choose a password
            </DropdownMenu.Item>
            {provider && person.through === "password" && (
              <DropdownMenu.Item className={ITEM} onSelect={() => letIn.mutate(person.id)}>
                May sign in with {provider}
              </DropdownMenu.Item>
            )}
            {provider && !person.own && person.through !== "password" && (
              <DropdownMenu.Item className={ITEM} onSelect={() => letOut.mutate(person.id)}>
                No more with {provider}
              </DropdownMenu.Item>
            )}
            {!person.own && (
              <>
                <DropdownMenu.Item className={ITEM} onSelect={() => signOut.mutate(person.id)}>
                  Sign out everywhere
                </DropdownMenu.Item>
                <DropdownMenu.Separator className="my-1 border-t border-rule" />
                <DropdownMenu.Item className={`${ITEM} text-short`} onSelect={() => setEnding(true)}>
                  Signs in no more
                </DropdownMenu.Item>
              </>
            )}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {signOut.isSuccess && (
        <span role="status" className="block text-[0.9rem]">
          signed out on {plural(signOut.data.ended, "browser")}
        </span>
      )}
      {ending && <EndSheet person={person} onClose={() => setEnding(false)} />}
    </>
  );
}

function EndSheet({ person, onClose }: { person: Person; onClose: () => void }) {
  const end = useEndPerson();
  const problem = isProblem(end.error) ? end.error : null;
  return (
    <Sheet
      open
      onClose={onClose}
      title={`${person.name} signs in no more`}
      about="They are signed out at once, their keys open nothing, and jobs they have in hand can be taken up by others. What they did stays on record; you can take them back."
    >
      {problem && (
        <p role="alert" className="mb-3 font-semibold text-short">
          {problem.detail}
        </p>
      )}
      <div className="flex gap-2">
        <Button look="main" disabled={end.isPending} onClick={() => end.mutate(person.id, { onSuccess: onClose })}>
          End it
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </Sheet>
  );
}
