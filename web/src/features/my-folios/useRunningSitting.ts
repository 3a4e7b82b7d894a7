import { useEffect } from "react";
import { useLocation, useNavigate } from "react-router";
import type { Schemas } from "../../shared/api/client";

/**
 * Whoever comes back while a timed sitting runs is taken to its board, once for each sign-in or loading of the page:
 * after that, My folios is where they wanted to go.
 */
export function useRunningSitting(work: Schemas["FolioLineOut"][] | undefined) {
  const navigate = useNavigate();
  const { key } = useLocation();
  const running = work?.find(
    (one) => one.window.timed && one.folio_id !== null && ["writing", "handover"].includes(one.window.phase),
  );
  useEffect(() => {
    // The router calls the first place of a loaded page "default"; every step within the application has a key of its own.
    if (running && key === "default") void navigate(`/folios/${running.folio_id}`);
  }, [running, key, navigate]);
}
