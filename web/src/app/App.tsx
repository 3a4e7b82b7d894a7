import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { lazy, Suspense } from "react";
import { BrowserRouter, Route, Routes } from "react-router";
import { SignIn } from "../features/sign-in/SignIn";
import { MyWork } from "../features/my-work/MyWork";
import { Problem } from "../shared/api/problem";
import { MeContext, useMe } from "../shared/me";
import { NotHere } from "./NotHere";
import { theme } from "./theme";

const Brief = lazy(() => import("../features/brief/Brief"));
const Board = lazy(() => import("../features/board/Board"));
const Check = lazy(() => import("../features/check/Check"));
const Receipt = lazy(() => import("../features/receipt/Receipt"));
const FolioList = lazy(() => import("../features/reading/FolioList"));
const Reading = lazy(() => import("../features/reading/Reading"));

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (failures, error) => !(error instanceof Problem && error.status < 500) && failures < 3,
    },
  },
});
const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? "";

export function App() {
  return (
    <ConfigProvider theme={theme} csp={{ nonce }} wave={{ disabled: true }}>
      <AntApp notification={{ placement: "bottomLeft" }}>
        <QueryClientProvider client={queries}>
          <BrowserRouter>
            <SignedIn />
          </BrowserRouter>
        </QueryClientProvider>
      </AntApp>
    </ConfigProvider>
  );
}

/** Everything below needs an account; without one, the sign-in stands where the screen would. */
function SignedIn() {
  const me = useMe();
  if (me.isPending) return null;
  if (!me.data) return <SignIn unreachable={me.isError} />;
  return (
    <MeContext value={me.data}>
      <Suspense fallback={null}>
        <Routes>
          <Route path="/" element={<MyWork />} />
          <Route path="/assignments/:assignmentId" element={<Brief />} />
          <Route path="/folios/:folioId" element={<Board />} />
          <Route path="/folios/:folioId/check" element={<Check />} />
          <Route path="/folios/:folioId/editions/:number" element={<Receipt />} />
          <Route path="/reading/:assignmentId" element={<FolioList />} />
          <Route path="/reading/:assignmentId/:folioId/:number" element={<Reading />} />
          <Route path="*" element={<NotHere />} />
        </Routes>
      </Suspense>
    </MeContext>
  );
}
