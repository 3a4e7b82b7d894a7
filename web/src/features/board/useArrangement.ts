import { App } from "antd";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, type Schemas } from "../../shared/api/client";
import { Problem, problemFrom } from "../../shared/api/problem";
import { type Arrangement, carriedTo, type Change, fingerprint, onlyPagesCame } from "./arrangement";

interface Saved {
  version: number;
  arrangement: Arrangement;
}
export type Saving = "saved" | "saving" | "waiting";
const RETRY_MS = 2000;

/**
 * The arrangement as the student sees it: what the server has, with the changes on their way laid over it.
 *
 * Changes are sent one after another, each against the version it was made on. Where the server has a newer one,
 * a change is made again on it if only pages have come; otherwise the newer state is shown and the change dropped.
 */
export function useArrangement(board: Schemas["BoardOut"]) {
  const { notification } = App.useApp();
  const [saved, setSaved] = useState<Saved>(() => savedOf(board));
  const [pending, setPending] = useState<readonly Change[]>([]);
  const [saving, setSaving] = useState<Saving>("saved");
  const [past, setPast] = useState<readonly Arrangement[]>([]);
  const [future, setFuture] = useState<readonly Arrangement[]>([]);
  const live = useRef({ saved, pending, busy: false, gone: false });

  const settle = useCallback((next: Partial<Pick<typeof live.current, "saved" | "pending">>) => {
    Object.assign(live.current, next);
    setSaved(live.current.saved);
    setPending(live.current.pending);
  }, []);

  const forget = useCallback(() => {
    setPast([]);
    setFuture([]);
  }, []);

  const refused = useCallback(
    (title: string, description: string) => {
      settle({ pending: [] });
      forget();
      notification.warning({ key: "arrangement", title, description, duration: 0, role: "alert" });
    },
    [forget, notification, settle],
  );

  const flush = useCallback(async () => {
    const state = live.current;
    if (state.busy) return;
    state.busy = true;
    while (state.pending.length > 0 && !state.gone) {
      const [change] = state.pending as [Change];
      const wanted = change(state.saved.arrangement);
      setSaving("saving");
      const outcome = await send(board.id, state.saved.version, wanted);
      if (outcome === "unreachable") {
        setSaving("waiting");
        await new Promise((done) => setTimeout(done, RETRY_MS));
      } else if (outcome instanceof Problem) {
        refused("That change could not be saved", outcome.message);
      } else if (outcome.stale && fingerprint(outcome.saved.arrangement) !== fingerprint(wanted)) {
        const mine = onlyPagesCame(state.saved.arrangement, outcome.saved.arrangement);
        settle({ saved: outcome.saved });
        if (!mine) refused("Changed elsewhere", outcome.message);
      } else {
        settle({ saved: outcome.saved, pending: state.pending.slice(1) });
      }
    }
    setSaving("saved");
    state.busy = false;
  }, [board.id, refused, settle]);

  // News from the server, while nothing of ours is on its way.
  useEffect(() => {
    const state = live.current;
    if (board.version <= state.saved.version || state.pending.length > 0) return;
    const newer = savedOf(board);
    if (!onlyPagesCame(state.saved.arrangement, newer.arrangement)) forget();
    settle({ saved: newer });
  }, [board, forget, settle]);

  useEffect(() => {
    const state = live.current;
    state.gone = false;
    return () => {
      state.gone = true;
    };
  }, []);

  const shown = pending.reduce((so_far, change) => change(so_far), saved.arrangement);

  const send_change = (change: Change) => {
    settle({ pending: [...live.current.pending, change] });
    void flush();
  };
  const change = (wanted: Change) => {
    if (fingerprint(wanted(shown)) === fingerprint(shown)) return;
    setPast((before) => [...before, shown]);
    setFuture([]);
    send_change(wanted);
  };
  const step = (from: readonly Arrangement[], setFrom: typeof setPast, setTo: typeof setPast) => {
    const target = from.at(-1);
    if (!target) return;
    setFrom(from.slice(0, -1));
    setTo((others) => [...others, shown]);
    send_change((now) => carriedTo(target, now));
  };
  return {
    arrangement: shown,
    saving,
    change,
    undo: past.length > 0 ? () => step(past, setPast, setFuture) : undefined,
    redo: future.length > 0 ? () => step(future, setFuture, setPast) : undefined,
  };
}

function savedOf(board: Schemas["BoardOut"]): Saved {
  return { version: board.version, arrangement: board.arrangement };
}

type Outcome = { saved: Saved; stale: boolean; message: string } | Problem | "unreachable";

async function send(folioId: number, version: number, arrangement: Arrangement): Promise<Outcome> {
  try {
    const { data, error, response } = await api.PUT("/api/folios/{folio_id}/arrangement", {
      params: { path: { folio_id: folioId } },
      body: { version, arrangement },
    });
    if (data) return { saved: { version: data.version, arrangement: data.arrangement }, stale: false, message: "" };
    if (response.status === 409) {
      const newer = error as Schemas["StaleOut"];
      return {
        saved: { version: newer.version, arrangement: newer.arrangement },
        stale: true,
        message: newer.message,
      };
    }
    return response.status >= 500 ? "unreachable" : problemFrom(response.status, error);
  } catch (error) {
    if (error instanceof Problem && error.status === 0) return "unreachable";
    throw error;
  }
}
