import { useQuery, useQueryClient } from "@tanstack/react-query";
import { memo, type ReactNode, useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { HELP, type HelpScreen } from "../help";
import { usePlaceInTab } from "../tabTitle";
import { later, lazily } from "./later";
import "./Masthead.css";
import { forgetAll, useSignedIn } from "../me";
import { unsavedNow } from "../unsaved";
import { count, list } from "../words";
import { queryKeys } from "../queryKeys";

const AskOnce = later("AskOnce");
const HelpDialog = lazily(async () => (await import("./HelpDialog")).HelpDialog);

interface MastheadProps {
  title: string;
  course?: string;
  /** What is at hand on this screen, beside its title. */
  tools?: ReactNode;
  help: HelpScreen;
}

const ASK_EVERY_MS = 60_000;

/** How many notices are new, where there are any. Without a network it is silent: nothing depends on it. */
function Unread() {
  const unread = useQuery({
    queryKey: queryKeys.unread,
    queryFn: () => answer(api.GET("/api/notices/unread")),
    refetchInterval: ASK_EVERY_MS,
    retry: false,
  });
  return unread.data ? <Link to="/notices">{count(unread.data, "new notice")}</Link> : null;
}

/** Every screen's top line: where one is, and whose name, number and mail address the folio will carry. */
export const Masthead = memo(function Masthead({ title, course, tools, help }: MastheadProps) {
  const me = useSignedIn();
  usePlaceInTab(HELP[help].title === title ? title : [HELP[help].title, title].filter(Boolean).join(": "));
  const queries = useQueryClient();
  const [unsaved, setUnsaved] = useState<string[]>([]);
  const [helping, setHelping] = useState(false);
  function leave() {
    const now = unsavedNow();
    if (now.length === 0) return void signOut();
    setUnsaved(now);
  }
  async function signOut() {
    await answer(api.DELETE("/api/session"));
    navigator.serviceWorker?.controller?.postMessage("forget");
    forgetAll();
    queries.removeQueries({ predicate: (query) => query.queryKey[0] !== "me" });
    queries.setQueryData(queryKeys.me, null);
  }
  return (
    <header className="masthead">
      <Link to="/" className="masthead-name" aria-label="Inked Folio, my folios">
        Inked Folio
      </Link>
      <span className="masthead-title">
        <span>{course ? `${course} · ${title}` : title}</span>
        {tools && <span className="masthead-tools">{tools}</span>}
      </span>
      <span className="masthead-person">
        <strong>{me.name}</strong>
        {me.number && <span> · no. {me.number}</span>}
        <span> · {me.email}</span>
        <Unread />
        <button type="button" className="plain" onClick={() => setHelping(true)}>
          Help
        </button>
        <Link to="/account" className="masthead-account">
          Account
        </Link>
        <button type="button" className="plain masthead-leave" onClick={leave}>
          Sign out
        </button>
      </span>
      {helping && <HelpDialog screen={help} onClose={() => setHelping(false)} />}
      {unsaved.length > 0 && (
        <AskOnce title="Sign out now?" no="Stay" yes="Sign out" onYes={() => void signOut()} onNo={() => setUnsaved([])}>
          Not on the server yet: {list(unsaved)}. All of it waits on this device until you sign in again.
        </AskOnce>
      )}
    </header>
  );
});
