import { lazy, Suspense } from "react";
import { Tooltip } from "radix-ui";
import { Route, Routes } from "react-router";
import { useChanges, useSession } from "./api/hooks";
import { CertificatePage } from "./pages/CertificatePage";
import { DevicesPage } from "./pages/DevicesPage";
import { FloorPage } from "./pages/FloorPage";
import { LogPage } from "./pages/LogPage";
import { OwnPasswordPage } from "./pages/PasswordForm";
import { PlanPage } from "./pages/PlanPage";
import { PeoplePage } from "./pages/PeoplePage";
import { ReportPage } from "./pages/ReportPage";
import { ReportsPage } from "./pages/ReportsPage";
import { SignInPage } from "./pages/SignInPage";
import { Shell } from "./shell/Shell";

const Workbench = lazy(() => import("./pages/Workbench").then((m) => ({ default: m.Workbench })));

export function App() {
  const session = useSession();
  const user = session.data?.user;
  useChanges(Boolean(user) && !session.data?.mustChangePassword);
  if (session.isPending) {
    return <p className="p-6">Opening Bostel …</p>;
  }

  if (session.isError) {
    return (
      <p className="p-6 text-bad" role="alert">
        {session.error.message}
      </p>
    );
  }

  if (!user) {
    return <SignInPage />;
  }

  if (session.data.mustChangePassword) {
    return <OwnPasswordPage user={user} />;
  }

  return (
    <Tooltip.Provider delayDuration={0}>
      <Shell session={session.data}>
        <Suspense fallback={<p className="p-6">Opening the workbench …</p>}>
          <Routes>
            <Route path="/" element={<FloorPage />} />
            <Route path="/pieces/:id/:station?" element={<Workbench />} />
            <Route path="/parts/:id/plan" element={<PlanPage />} />
            <Route path="/reports" element={<ReportsPage />} />
            <Route path="/reports/:number" element={<ReportPage />} />
            <Route path="/devices" element={<DevicesPage />} />
            <Route path="/people" element={<PeoplePage />} />
            <Route path="/log" element={<LogPage />} />
            <Route path="/certificate" element={<CertificatePage />} />
            <Route path="*" element={<p className="p-6">There is nothing at this address.</p>} />
          </Routes>
        </Suspense>
      </Shell>
    </Tooltip.Provider>
  );
}
