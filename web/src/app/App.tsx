import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Suspense, useEffect, useState, useSyncExternalStore } from "react";
import { BrowserRouter, matchPath, Route, Routes } from "react-router";
import { labelIn } from "../folio/labelIn";
import { markingQuery } from "../folio/marked/rollQuery";
import { boardQuery } from "../folio/useBoard";
import { whenSignedOut } from "../shared/api/client";
import { Problem } from "../shared/api/problem";
import { MeContext, meQuery, useMe } from "../shared/me";
import { notices } from "../shared/notices";
import { whenQuiet } from "../shared/quiet";
import { goOnFor } from "../shared/sending/queues";
import { Broken } from "./Broken";
import { GettingScreen } from "./GettingScreen";
import { NotHere } from "./NotHere";
import { fetchLater } from "../shared/ui/later";
import { ROUTES, SIGN_IN, WITHOUT_ACCOUNT } from "./routes";
import { drawnWhenThere, screen } from "./screen";

const SCREENS = ROUTES.map((route) => ({ ...route, Screen: screen(route.screen) }));
const SignIn = screen(SIGN_IN);
const OPEN_SCREENS = WITHOUT_ACCOUNT.map((route) => ({ ...route, Screen: screen(route.screen) }));
const Notices = drawnWhenThere(() => import("./Notices"));
/** What must be there when the network goes, all but the phone's camera. */
const all = [
  ...SCREENS.filter((route) => !route.staffOnly).map((route) => route.Screen.fetch),
  SignIn.fetch,
  Notices.fetch,
  () => import("../shared/sending/inPieces"),
  fetchLater,
];
const DRAW_AT_THE_LATEST_MS = 1000;

const queries = new QueryClient({
  defaultOptions: {
    // A device's own idea of being online is not trusted: what cannot be reached is said so, and tried again.
    mutations: { networkMode: "always" },
    queries: {
      networkMode: "always",
      staleTime: 5_000,
      retry: (failures, error) => !(error instanceof Problem && error.status < 500) && failures < 3,
    },
  },
});
const keptFromTheStart = Boolean(navigator.serviceWorker?.controller);
// The server is asked who is signed in: a refusal may be late, of a request from before somebody signed in again.
whenSignedOut(() => void queries.fetchQuery({ ...meQuery, staleTime: 0 }).catch(() => null));

export function App() {
  return (
    <QueryClientProvider client={queries}>
      {/* One who goes on leaves a screen at once: what is typed next must not go to its fields. */}
      <BrowserRouter useTransitions={false}>
        <Routes>
          {OPEN_SCREENS.map(({ path, Screen }) => (
            <Route
              key={path}
              path={path}
              element={
                <Suspense fallback={<GettingScreen />}>
                  <Screen />
                </Suspense>
              }
            />
          ))}
          <Route path="*" element={<SignedIn />} />
        </Routes>
      </BrowserRouter>
      <ToTell />
    </QueryClientProvider>
  );
}

/** What tells notices comes with the first of them. */
function ToTell() {
  const [any, setAny] = useState(false);
  const waiting = useSyncExternalStore(notices.subscribe, notices.toTell).length > 0;
  if (waiting && !any) setAny(true);
  return <Suspense fallback={null}>{any && <Notices />}</Suspense>;
}

/** What the first screen needs, so that it is drawn once and whole; a weak line is not waited for. */
export async function startEarly() {
  const entered = SCREENS.find(({ path }) => matchPath(path, location.pathname));
  const folio = entered?.screen === "board/Board" && matchPath(entered.path, location.pathname)?.params["folioId"];
  const needed: Promise<unknown>[] = [queries.prefetchQuery(meQuery)];
  if (folio) needed.push(queries.prefetchQuery(boardQuery(Number(folio))));
  const marked = matchPath("/marking/:assignmentId", location.pathname)?.params.assignmentId;
  if (marked) {
    // The first answers are asked for while the screen's code is on its way.
    needed.push(queries.prefetchQuery(markingQuery(Number(marked), labelIn(location.hash))));
  }
  if (entered?.asks) needed.push(entered.Screen.fetch());
  const late = new Promise((done) => setTimeout(done, DRAW_AT_THE_LATEST_MS));
  await Promise.race([Promise.allSettled(needed), late]);
}

/** Everything below needs an account; without one, the sign-in stands where the screen would. */
function SignedIn() {
  const me = useMe();
  const signedIn = Boolean(me.data);
  const email = me.data?.email;
  useEffect(() => {
    if (!email) return;
    goOnFor(email);
    // What was asked for before the service worker took over is asked for once more through it: it keeps the answers for
    // a page opened without a network.
    const ask = () => void queries.invalidateQueries();
    if (!keptFromTheStart && navigator.serviceWorker?.controller) ask();
    navigator.serviceWorker?.addEventListener("controllerchange", ask);
    return () => navigator.serviceWorker?.removeEventListener("controllerchange", ask);
  }, [email]);
  useEffect(() => {
    // All screens are fetched early: when the network goes, none of them must be missing.
    if (!signedIn) return;
    // … but after the one that is asked for.
    return whenQuiet(() => void Promise.allSettled(all.map((load) => load())));
  }, [signedIn]);
  if (me.isPending) return null;
  if (!me.data)
    return (
      <Suspense>
        <SignIn />
      </Suspense>
    );
  return (
    <MeContext value={me.data}>
      <Broken>
        <Suspense fallback={<GettingScreen />}>
          <Routes>
            {SCREENS.map(({ path, Screen }) => (
              <Route key={path} path={path} element={<Screen />} />
            ))}
            <Route path="*" element={<NotHere />} />
          </Routes>
        </Suspense>
      </Broken>
    </MeContext>
  );
}
