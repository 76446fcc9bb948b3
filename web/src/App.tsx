import { ThemeProvider } from "@mui/material";
import { useEffect, useMemo } from "react";
import { Navigate, Route, Routes } from "react-router";

import { Problem } from "./api/client";
import { useSession } from "./api/queries";
import { JobPage } from "./job/JobPage";
import { Tablet } from "./job/Tablet";
import { JobsPage } from "./jobs/JobsPage";
import { PeoplePage } from "./people/PeoplePage";
import { SignIn } from "./session/SignIn";
import { ShelfPage } from "./shelf/ShelfPage";
import { TodayPage } from "./today/TodayPage";
import { ShopPage } from "./shop/ShopPage";
import { NoPage } from "./ui/NoPage";
import { Notice } from "./ui/Notice";
import { Shell } from "./Shell";
import { colours, makeTheme } from "./ui/theme";
import { UnitsContext } from "./ui/units";

const dashed = (name: string): string => name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);

export function App() {
  const session = useSession();
  const me = session.data?.person ?? null;
  const mode = me?.theme ?? "light";
  const theme = useMemo(() => makeTheme(mode), [mode]);

  useEffect(() => {
    const root = document.documentElement;
    root.dataset.theme = mode;
    root.style.colorScheme = mode;
    for (const [name, value] of Object.entries(colours(mode))) root.style.setProperty(`--${dashed(name)}`, value);
  }, [mode]);

  return (
    <ThemeProvider theme={theme}>
      <UnitsContext.Provider value={me?.units ?? "metric"}>
        {session.failureReason instanceof Problem && session.failureReason.passing && !session.data && (
          <div className="page" tabIndex={0}>
            <Notice title={session.failureReason.title}>
              <p>{session.failureReason.message} Trying again.</p>
            </Notice>
          </div>
        )}
        {session.data && !me && <SignIn session={session.data} />}
        {me && (
          <Routes>
            <Route path="/jobs/:id/tablet" element={<Tablet />} />
            <Route element={<Shell me={me} />}>
              <Route path="/jobs" element={<JobsPage me={me} />} />
              <Route path="/jobs/:id/:step?" element={<JobPage me={me} />} />
              <Route path="/today" element={<TodayPage me={me} />} />
              <Route path="/shelf/:number?" element={<ShelfPage me={me} />} />
              <Route path="/shop" element={<ShopPage me={me} />} />
              <Route path="/people" element={me.role === "admin" ? <PeoplePage /> : <Navigate to="/" replace />} />
              <Route path="/" element={<Navigate to={me.role === "operator" ? "/today" : "/jobs"} replace />} />
              <Route path="*" element={<NoPage />} />
            </Route>
          </Routes>
        )}
      </UnitsContext.Provider>
    </ThemeProvider>
  );
}
