import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Problem } from "../../shared/api/problem";
import { queryKeys } from "../../shared/queryKeys";
import { keepAnEyeOn } from "../../shared/unsaved";

type Work = Schemas["SettingUpOut"];
export type SettingUpFields = Omit<Schemas["SettingUpIn"], "version" | "sure">;
type Name = keyof SettingUpFields;
/** All of them: one that is left out does not compile. */
const EVERY: Record<Name, true> = {
  title: true,
  instructions: true,
  instructions_before: true,
  opens: true,
  due: true,
  late_until: true,
  writing_minutes: true,
  handover_minutes: true,
  due_cuts_sitting: true,
  placing_minutes: true,
  pledge_minutes: true,
  offers_rehearsal: true,
  asks_rehearsal: true,
  whole_work: true,
  paper_rules: true,
  page_kinds: true,
  honour: true,
  proposes: true,
};
const NAMES = Object.keys(EVERY) as Name[];
const TYPING_MS = 700;

/**
 * The fields as they are typed, saved a moment later, one save after another. What is refused stays as it was typed,
 * with why at its field, and the server keeps what it had.
 */
export function useFields(work: Work) {
  const queries = useQueryClient();
  const [edited, setEdited] = useState<Partial<SettingUpFields>>({});
  const [problem, setProblem] = useState<Problem | null>(null);
  const [state, setState] = useState<"saved" | "saving" | "typing">("saved");
  const latest = useRef({ edited, work });
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const busy = useRef(false);
  const again = useRef(false);
  /** What it would do to begun work, asked about; nothing is saved meanwhile. */
  const [asking, setAsking] = useState("");
  const held = useRef(false);
  const sure = useRef(false);
  const saveLatest = useRef(() => Promise.resolve());
  useEffect(() => {
    latest.current = { edited, work };
  });
  const id = work.assignment.id;

  const save = useCallback(async () => {
    clearTimeout(timer.current);
    if (busy.current) {
      again.current = true; // it is saved behind the one that is under way
      return;
    }
    again.current = false;
    const { edited: sent, work: known } = latest.current;
    if (Object.keys(sent).length === 0) return setState("saved");
    if (held.current) return;
    busy.current = true;
    setState("saving");
    try {
      const body = { ...fieldsOf(known), ...sent, version: known.version, sure: sure.current };
      const now = await answer(api.PUT("/api/assignments/{assignment_id}/setting-up", { params: { path: { assignment_id: id } }, body }));
      queries.setQueryData(queryKeys.settingUp(id), now);
      latest.current.work = now;
      setProblem(null);
      sure.current = false;
      setEdited((after) => without(after, sent));
      latest.current.edited = without(latest.current.edited, sent);
    } catch (error) {
      if (error instanceof Problem && error.code === "touches_begun") {
        held.current = true;
        return setAsking(error.message);
      }
      setProblem(error instanceof Problem ? error : null);
      if (error instanceof Problem && error.code === "stale") {
        setEdited({});
        latest.current.edited = {};
        await queries.invalidateQueries({ queryKey: queryKeys.settingUp(id) });
      }
    } finally {
      busy.current = false;
      setState(Object.keys(latest.current.edited).length === 0 ? "saved" : "typing");
      if (again.current) timer.current = setTimeout(() => void saveLatest.current(), 0);
    }
  }, [id, queries]);

  useEffect(() => {
    saveLatest.current = save;
  });

  const change = (wanted: Partial<SettingUpFields>) => {
    setEdited((now) => ({ ...now, ...wanted }));
    latest.current.edited = { ...latest.current.edited, ...wanted };
    setState("typing");
    clearTimeout(timer.current);
    timer.current = setTimeout(() => void save(), TYPING_MS);
  };
  const decide = (yes: boolean) => {
    setAsking("");
    held.current = false;
    sure.current = yes;
    if (!yes) {
      setEdited({});
      latest.current.edited = {};
    }
    void save();
  };
  const owner = useRef({});
  useEffect(() => {
    keepAnEyeOn(owner.current, state === "saved" ? "" : "what you changed of this assignment");
  }, [state]);
  useEffect(() => () => void save(), [save]); // left before the moment has passed

  const field = problem ? /^field:(\w+)$/.exec(problem.code)?.[1] : undefined;
  return { fields: { ...fieldsOf(work), ...edited }, change, save, state, problem, field, asking, decide };
}

function fieldsOf(work: Work): SettingUpFields {
  return Object.fromEntries(NAMES.map((name) => [name, work[name]])) as unknown as SettingUpFields;
}

/** What was edited since it was sent. */
function without(edited: Partial<SettingUpFields>, sent: Partial<SettingUpFields>): Partial<SettingUpFields> {
  return Object.fromEntries(Object.entries(edited).filter(([name, value]) => sent[name as Name] !== value));
}
