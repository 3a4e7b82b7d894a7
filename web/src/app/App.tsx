import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { lazy, Suspense, useEffect } from "react";
import { BrowserRouter, Route, Routes } from "react-router";
import { boardQuery } from "../features/board/useBoard";
import { SignIn } from "../features/sign-in/SignIn";
import { MyWork } from "../features/my-work/MyWork";
import { whenSignedOut } from "../shared/api/client";
import { Problem } from "../shared/api/problem";
import { MeContext, useMe } from "../shared/me";
import { goOnFor } from "../shared/sending/queues";
import { Broken } from "./Broken";
import { NotHere } from "./NotHere";
import { patiently } from "./patiently";
import { theme } from "./theme";

const screens = {
  Brief: () => import("../features/brief/Brief"),
  Board: () => import("../features/board/Board"),
  Check: () => import("../features/check/Check"),
  Receipt: () => import("../features/receipt/Receipt"),
  FolioList: () => import("../features/reading/FolioList"),
  Reading: () => import("../features/reading/Reading"),
  SittingRecord: () => import("../features/staff/SittingRecord"),
};
const Camera = lazy(patiently(() => import("../features/camera/Camera")));
const Brief = lazy(patiently(screens.Brief));
const Board = lazy(patiently(screens.Board));
const Check = lazy(patiently(screens.Check));
const Receipt = lazy(patiently(screens.Receipt));
const FolioList = lazy(patiently(screens.FolioList));
const Reading = lazy(patiently(screens.Reading));
const SittingRecord = lazy(patiently(screens.SittingRecord));

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
const REST_AFTER_MS = 1500;
const keptFromTheStart = Boolean(navigator.serviceWorker?.controller);
whenSignedOut(() => queries.setQueryData(["me"], null));
const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? "";

export function App() {
  return (
    <ConfigProvider theme={theme} csp={{ nonce }} wave={{ disabled: true }}>
      <AntApp notification={{ placement: "bottomLeft" }}>
        <QueryClientProvider client={queries}>
          <BrowserRouter>
            <Routes>
              <Route
                path="/camera"
                element={
                  <Suspense fallback={<p className="screen soft">Getting the camera …</p>}>
                    <Camera />
                  </Suspense>
                }
              />
              <Route path="*" element={<SignedIn />} />
            </Routes>
          </BrowserRouter>
        </QueryClientProvider>
      </AntApp>
    </ConfigProvider>
  );
}

/** The board begins to come while it is still asked who is signed in. */
export function startEarly() {
  const folio = /^\/folios\/(\d+)$/.exec(location.pathname)?.[1];
  if (!folio) return;
  screens.Board().catch(() => {}); // asked for again by the screen itself
  void queries.prefetchQuery(boardQuery(Number(folio)));
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
    const rest = () => void Promise.allSettled(Object.values(screens).map((load) => load()));
    if (!("requestIdleCallback" in window)) return rest(); // Safari
    const asked = requestIdleCallback(rest, { timeout: REST_AFTER_MS });
    return () => cancelIdleCallback(asked);
  }, [signedIn]);
  if (me.isPending) return null;
  if (!me.data) return <SignIn unreachable={me.isError} />;
  return (
    <MeContext value={me.data}>
      <Broken>
        <Suspense fallback={<p className="screen soft">Getting this screen …</p>}>
          <Routes>
            <Route path="/" element={<MyWork />} />
            <Route path="/assignments/:assignmentId" element={<Brief />} />
            <Route path="/folios/:folioId" element={<Board />} />
            <Route path="/folios/:folioId/check" element={<Check />} />
            <Route path="/folios/:folioId/editions/:number" element={<Receipt />} />
            <Route path="/reading/:assignmentId" element={<FolioList />} />
            <Route path="/reading/:assignmentId/:folioId/:number" element={<Reading />} />
            <Route path="/records/:folioId" element={<SittingRecord />} />
            <Route path="*" element={<NotHere />} />
          </Routes>
        </Suspense>
      </Broken>
    </MeContext>
  );
}
