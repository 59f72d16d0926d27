import { DropdownMenu } from "radix-ui";
import { useEffect, useState } from "react";
import { Link, NavLink, Outlet, useLocation, useNavigate } from "react-router";
import { type Session, useSignOut } from "@/features/session/session.queries";
import { longDay } from "@/lib/format";
import { useKeys } from "@/lib/useKeys";
import { useOffline } from "@/lib/useOffline";
import { usePage } from "@/lib/usePage";
import { useSite } from "@/lib/useSite";
import { ROLE_NAMES } from "@/lib/words";
import { Sheet } from "@/ui/Sheet";
import { FindField } from "./FindField";
import { Freshness } from "./Freshness";
import { ALSO, KEYS, TABS } from "./tabs";

const MENU = "z-30 min-w-[190px] border border-ink bg-leaf py-1";
const ITEM = "cursor-pointer px-3 py-1 outline-none data-[highlighted]:bg-pick";

function SiteMenu({ session }: { session: Session }) {
  const [site, choose] = useSite();
  const chosen = session.sites.find((entry) => entry.code === site);
  const all = `All ${session.sites.length} sites`;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="whitespace-nowrap font-semibold">{chosen?.name ?? all} ▾</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className={MENU}>
          <DropdownMenu.Item className={ITEM} onSelect={() => choose(null)}>
            {all}
          </DropdownMenu.Item>
          {session.sites.map((entry) => (
            <DropdownMenu.Item key={entry.code} className={ITEM} onSelect={() => choose(entry.code)}>
              {entry.name}
              {entry.is_depot && <span className="ml-2 text-soft">depot</span>}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** What belongs to the company as a whole; everybody else reads its name. */
function CompanyMenu({ session }: { session: Session }) {
  const navigate = useNavigate();
  if (session.user?.role !== "lead") return <p className="truncate">{session.company}</p>;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="truncate whitespace-nowrap">{session.company} ▾</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" className={MENU}>
          <DropdownMenu.Item className={ITEM} onSelect={() => navigate("/company")}>
            Sites and suppliers
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => navigate("/company/people")}>
            People
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => navigate("/company/audit")}>
            What people did
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => navigate("/first-day")}>
            First day
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => navigate("/company/work")}>
            Work behind the pages
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function useLamp(): [boolean, () => void] {
  const [lamp, setLamp] = useState(() => localStorage.getItem("almanac.lamp") === "on");
  useEffect(() => {
    document.documentElement.classList.toggle("lamp", lamp);
    localStorage.setItem("almanac.lamp", lamp ? "on" : "off");
  }, [lamp]);
  return [lamp, () => setLamp((before) => !before)];
}

function UserMenu({ session, onKeys }: { session: Session; onKeys: () => void }) {
  const signOut = useSignOut();
  const navigate = useNavigate();
  const [lamp, switchLamp] = useLamp();
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="whitespace-nowrap">
        {session.user?.name}, {ROLE_NAMES[session.user?.role ?? ""]}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className={MENU}>
          <DropdownMenu.Item className={ITEM} onSelect={() => navigate("/import")}>
            Import own data
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => navigate("/account")}>
            Your account
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={switchLamp}>
            {lamp ? "Paper (light)" : "Lamp (dark)"}
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={onKeys}>
            Keys
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => navigate("/tour")}>
            Tour
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} onSelect={() => navigate("/glossary")}>
            Words
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 border-t border-rule" />
          <DropdownMenu.Item className={ITEM} onSelect={() => signOut.mutate()}>
            Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function ThumbIndex() {
  const { search, pathname } = useLocation();
  const site = new URLSearchParams(search).get("site");
  const also = ALSO[`/${pathname.split("/")[1]}`];
  return (
    <nav
      aria-label="Tabs"
      className="no-print flex w-[78px] shrink-0 flex-col gap-2 bg-paper py-3 max-[900px]:w-full max-[900px]:flex-row max-[900px]:px-3 max-[900px]:py-1 max-[600px]:gap-1 max-[600px]:px-1"
    >
      {TABS.map((tab) => (
        <NavLink
          key={tab.path}
          to={site ? `${tab.path}?site=${site}` : tab.path}
          className={({ isActive }) =>
            `block rounded-r-[8px] border border-l-0 border-rule px-3 py-2 font-semibold max-[900px]:rounded-[6px] max-[900px]:border-l max-[600px]:min-w-0 max-[600px]:flex-1 max-[600px]:px-0.5 max-[600px]:text-center max-[600px]:text-[0.86rem] ${
              isActive || also === tab.path
                ? "border-b-[3px] border-b-accent bg-leaf text-ink"
                : "mr-2 bg-pick text-soft hover:text-ink max-[600px]:mr-0"
            }`
          }
        >
          {tab.name}
          <span className="block text-[0.86rem] font-normal text-soft max-[900px]:ml-2 max-[900px]:inline max-[600px]:hidden">
            {tab.digit}
          </span>
        </NavLink>
      ))}
    </nav>
  );
}

export function Frame({ session }: { session: Session }) {
  const [keys, setKeys] = useState(false);
  const navigate = useNavigate();
  const { search } = useLocation();
  usePage();
  const offline = useOffline();
  const site = new URLSearchParams(search).get("site");
  const turn = (path: string) => () => navigate(site ? `${path}?site=${site}` : path);
  useKeys({
    ...Object.fromEntries(TABS.map((tab) => [tab.digit, turn(tab.path)])),
    "?": () => setKeys(true),
    n: turn("/ledger/new"),
    d: turn("/today"),
  });
  return (
    <div className="flex h-dvh flex-col">
      <a href="#body" className="absolute -top-10 left-2 z-50 bg-leaf p-2 focus:top-2">
        Skip to the page
      </a>
      <header className="flex shrink-0 items-baseline gap-4 border-b-4 border-double border-ink px-4 pt-2 pb-1.5 max-[900px]:flex-wrap">
        <Link to="/outlook" className="whitespace-nowrap font-serif text-[1.45rem] font-semibold">
          Parts Almanac
        </Link>
        <div className="flex min-w-0 flex-1 items-baseline gap-3 text-soft">
          <CompanyMenu session={session} />
          <p className="truncate">as of {longDay(session.as_of)}</p>
          <Link className="whitespace-nowrap text-accent underline" to={site ? `/today?site=${site}` : "/today"}>
            Today
          </Link>
          <Freshness />
        </div>
        <FindField />
        {session.sites.length > 1 && <SiteMenu session={session} />}
        <UserMenu session={session} onKeys={() => setKeys(true)} />
      </header>
      {offline && (
        <p role="status" className="shrink-0 border-b border-ink bg-pick px-4 py-1 font-semibold text-thin">
          No connection: what is shown was read before, and nothing can be saved until it is back. The bench keeps what
          is done and sends it then.
        </p>
      )}
      <div className="flex min-h-0 flex-1 max-[900px]:flex-col-reverse">
        <main id="body" tabIndex={-1} className="flex min-h-0 min-w-0 flex-1 flex-col outline-none">
          <Outlet context={session} />
        </main>
        <ThumbIndex />
      </div>
      <Sheet open={keys} onClose={() => setKeys(false)} title="Keys">
        <table className="w-full">
          <tbody>
            {KEYS.map(([key, meaning]) => (
              <tr key={key} className="border-b border-dotted border-rule">
                <th scope="row" className="code w-20 py-1">
                  {key}
                </th>
                <td>{meaning}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Sheet>
    </div>
  );
}
