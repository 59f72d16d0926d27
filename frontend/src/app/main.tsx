import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense, useEffect } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { onComing, theComing } from "@/api/answers";
import { isProblem } from "@/api/client";
import { OutlookPage } from "@/features/outlook/OutlookPage";
import { FirstUserPage } from "@/features/session/FirstUserPage";
import { SignInPage } from "@/features/session/SignInPage";
import { useSession } from "@/features/session/session.queries";
import { Failed, Nothing, Waiting } from "@/ui/Notice";
import { Frame } from "./Frame";
import "./styles.css";
import { FailedToRead } from "@/ui/FailedToRead";

const FleetPage = lazy(() => import("@/features/fleet/FleetPage"));
const ReportsPage = lazy(() => import("@/features/fleet/ReportsPage"));
const TodayPage = lazy(() => import("@/features/today/TodayPage"));
const BenchPage = lazy(() => import("@/features/bench/BenchPage"));
const RunPage = lazy(() => import("@/features/bench/RunPage"));
const DiagnosePage = lazy(() => import("@/features/bench/DiagnosePage"));
const StoresPage = lazy(() => import("@/features/stores/StoresPage"));
const OrdersPage = lazy(() => import("@/features/orders/OrdersPage"));
const LedgerPage = lazy(() => import("@/features/ledger/LedgerPage"));
const ModelsPage = lazy(() => import("@/features/models/ModelsPage"));
const SurveyPage = lazy(() => import("@/features/models/survey/SurveyPage"));
const CalibrationPage = lazy(() => import("@/features/calibration/CalibrationPage"));
const MoneyPage = lazy(() => import("@/features/money/MoneyPage"));
const RehearsalPage = lazy(() => import("@/features/rehearsal/RehearsalPage"));
const ScenarioPage = lazy(() => import("@/features/scenarios/ScenarioPage"));
const AlarmsPage = lazy(() => import("@/features/rates/AlarmsPage"));
const FadePage = lazy(() => import("@/features/rates/FadePage"));
const DataCheckPage = lazy(() => import("@/features/rates/DataCheckPage"));
const PoolLivesPage = lazy(() => import("@/features/rates/PoolLivesPage"));
const RatesPage = lazy(() => import("@/features/rates/RatesPage"));
const CompanyPage = lazy(() => import("@/features/company/CompanyPage"));
const MachinePage = lazy(() => import("@/features/fleet/MachinePage"));
const FirstDayPage = lazy(() => import("@/features/company/FirstDayPage"));
const TourPage = lazy(() => import("@/features/company/TourPage"));
const GlossaryPage = lazy(() => import("@/features/company/GlossaryPage"));
const AccountPage = lazy(() => import("@/features/session/AccountPage"));
const PeoplePage = lazy(() => import("@/features/people/PeoplePage"));
const AuditPage = lazy(() => import("@/features/people/AuditPage"));
const WelcomePage = lazy(() => import("@/features/session/WelcomePage"));
const WorkPage = lazy(() => import("@/features/company/WorkPage"));
const ListPage = lazy(() => import("@/features/imports/ListPage"));
const ImportPage = lazy(() => import("@/features/imports/ImportPage"));

/** A session that ended meanwhile leads back to the door, whatever was asked for. */
function onRefusal(error: Error): void {
  if (!isProblem(error) || error.status !== 401) return;
  if (client.getQueryData<{ user: unknown }>(["session"])?.user) signedOut = true;
  void client.invalidateQueries({ queryKey: ["session"] });
}

let signedOut = false;

/** Whether a session ended without its user's doing: the door says so, once. */
function wasSignedOut(): boolean {
  return signedOut;
}

const client = new QueryClient({
  queryCache: new QueryCache({ onError: onRefusal }),
  mutationCache: new MutationCache({ onError: onRefusal }),
  defaultOptions: {
    queries: {
      retry: (count, error) => count < 2 && isProblem(error) && error.status === 0,
      refetchOnWindowFocus: false,
    },
  },
});

/** While a newer answer is on its way, what is on the page is asked for again; the server says when it is there. */
function askAgain(): void {
  if (!theComing().madeAt) return;
  setTimeout(() => {
    const shown = {
      type: "active" as const,
      predicate: (query: { queryKey: readonly unknown[] }) => query.queryKey[0] !== "session",
    };
    void client.refetchQueries(shown).then(askAgain);
  }, 700);
}
onComing(askAgain);

/** The frame for whoever is signed in, the sign-in page for everybody else. */
function Door() {
  const session = useSession();
  const inside = Boolean(session.data?.user);
  useEffect(() => {
    if (inside) signedOut = false;
  }, [inside]);
  if (session.isError) {
    return <FailedToRead title="No connection" query={session} />;
  }
  if (!session.data) return <Waiting what="Opening the almanac" />;
  if (session.data.user) return <Frame session={session.data} />;
  return session.data.first_user ? (
    <FirstUserPage />
  ) : (
    <SignInPage signedOut={wasSignedOut()} provider={session.data.provider} />
  );
}

const Later = ({ children }: { children: React.ReactNode }) => (
  <Suspense fallback={<Waiting what="Turning the page" />}>{children}</Suspense>
);

const router = createBrowserRouter([
  {
    path: "/welcome",
    element: (
      <Later>
        <WelcomePage />
      </Later>
    ),
  },
  {
    element: <Door />,
    errorElement: (
      <Failed title="This page broke" detail="Reload it. If it breaks again, tell whoever runs the almanac." />
    ),
    children: [
      { index: true, element: <Navigate to="/outlook" replace /> },
      { path: "outlook/:number?", element: <OutlookPage /> },
      ...["models", "models/:view", "models/:view/:part"].map((path) => ({
        path,
        element: (
          <Later>
            <ModelsPage />
          </Later>
        ),
      })),
      ...["models/new", "models/:id/survey"].map((path) => ({
        path,
        element: (
          <Later>
            <SurveyPage />
          </Later>
        ),
      })),
      ...(
        [
          ["bench/:job?", BenchPage],
          ["bench/:job/run", RunPage],
          ["bench/:job/diagnose", DiagnosePage],
          ["fleet", FleetPage],
          ["fleet/reports", ReportsPage],
          ["today", TodayPage],
          ["company/people", PeoplePage],
          ["company/audit", AuditPage],
        ] as const
      ).map(([path, Page]) => ({
        path,
        element: (
          <Later>
            <Page />
          </Later>
        ),
      })),
      ...["stores/orders/:order?", "stores/drafts/:draft"].map((path) => ({
        path,
        element: (
          <Later>
            <OrdersPage />
          </Later>
        ),
      })),
      {
        path: "stores/:number?/:site?",
        element: (
          <Later>
            <StoresPage />
          </Later>
        ),
      },
      {
        path: "ledger/:incident?",
        element: (
          <Later>
            <LedgerPage />
          </Later>
        ),
      },
      {
        path: "outlook/money",
        element: (
          <Later>
            <MoneyPage />
          </Later>
        ),
      },
      {
        path: "outlook/rehearsal",
        element: (
          <Later>
            <RehearsalPage />
          </Later>
        ),
      },
      {
        path: "outlook/what-if",
        element: (
          <Later>
            <ScenarioPage />
          </Later>
        ),
      },
      {
        path: "rates/alarms",
        element: (
          <Later>
            <AlarmsPage />
          </Later>
        ),
      },
      {
        path: "rates/fade/:part?",
        element: (
          <Later>
            <FadePage />
          </Later>
        ),
      },
      {
        path: "rates/data/:check?",
        element: (
          <Later>
            <DataCheckPage />
          </Later>
        ),
      },
      {
        path: "rates/calibration/:kind?",
        element: (
          <Later>
            <CalibrationPage />
          </Later>
        ),
      },
      {
        path: "rates/:kind/lives",
        element: (
          <Later>
            <PoolLivesPage />
          </Later>
        ),
      },
      {
        path: "rates/:kind?",
        element: (
          <Later>
            <RatesPage />
          </Later>
        ),
      },
      {
        path: "company",
        element: (
          <Later>
            <CompanyPage />
          </Later>
        ),
      },
      {
        path: "machines/:tag",
        element: (
          <Later>
            <MachinePage />
          </Later>
        ),
      },
      {
        path: "first-day",
        element: (
          <Later>
            <FirstDayPage />
          </Later>
        ),
      },
      {
        path: "tour",
        element: (
          <Later>
            <TourPage />
          </Later>
        ),
      },
      {
        path: "glossary",
        element: (
          <Later>
            <GlossaryPage />
          </Later>
        ),
      },
      {
        path: "account",
        element: (
          <Later>
            <AccountPage />
          </Later>
        ),
      },
      {
        path: "company/work",
        element: (
          <Later>
            <WorkPage />
          </Later>
        ),
      },
      {
        path: "import/lists",
        element: (
          <Later>
            <ListPage />
          </Later>
        ),
      },
      {
        path: "import",
        element: (
          <Later>
            <ImportPage />
          </Later>
        ),
      },
      { path: "*", element: <Nothing>There is no page at this address. The tabs on the right edge lead on.</Nothing> },
    ],
  },
]);

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
}
