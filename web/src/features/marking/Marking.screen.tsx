import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState, useSyncExternalStore } from "react";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import { labelIn } from "../../folio/labelIn";
import { pointsWords } from "../../folio/marked/pointsWords";
import type { Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { usePlaceInTab } from "../../shared/tabTitle";
import { LinkButton } from "../../shared/ui/Button";
import { later, lazily } from "../../shared/ui/later";
import { Masthead } from "../../shared/ui/Masthead";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { useLatest } from "../../shared/useLatest";
import { useMedia } from "../../shared/useMedia";
import { count, list } from "../../shared/words";
import { AnswerLine } from "./AnswerLine";
import { figuresOf } from "./figures";
import { nameOf } from "./MarkingStore";
import { type Order, ORDERS, ordered } from "./order";
import { watchPen } from "./penNear";
import { Side } from "./Side";
import { Tools } from "./Tools";
import type { Chosen } from "./tools";
import { useAtWork, useMarkingOverview, useMarkingStore, useRoll, useSaving } from "./useMarking";
import { useMarkingKeys } from "./useMarkingKeys";
import "./Marking.css";

const Choice = later("Choice");
const MarkingKeys = lazily(async () => (await import("./MarkingKeys")).MarkingKeys);
const SchemeDialog = lazily(async () => (await import("./SchemeDialog")).SchemeDialog, "where shown");

/**
 * Marking: everybody's answer to one question, one under another, down which the marker goes; or one student's answers.
 * The address says which question it is (`#2b`).
 */
export default function Marking() {
  const params = useParams();
  const assignmentId = Number(params.assignmentId);
  const folioId = params.folioId === undefined ? null : Number(params.folioId);
  const { hash } = useLocation();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const label = labelIn(hash);
  const overview = useMarkingOverview(assignmentId, label);
  const data = overview.data;
  const question = folioId === null ? (data?.questions.find((one) => one.label === label) ?? data?.questions[0]) : undefined;
  const firstSeen = useLater(data !== undefined, FIRST_SEEN_MS);
  const roll = useRoll(assignmentId, label, folioId, folioId !== null || firstSeen);
  const store = useMarkingStore(assignmentId);
  const saving = useSaving(store);
  const [order, setOrder] = useState<Order>("roster");
  const [at, setAt] = useState("");
  const [tool, setTool] = useState<Chosen>("pen");
  const [finger, setFinger] = useState(false);
  const [whole, setWhole] = useState(false);
  const [noting, setNoting] = useState(false);
  const [open, setOpen] = useState<"keys" | "scheme" | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const hasTouch = useMedia("(any-pointer: coarse)");
  const first = data?.first_rows[0]?.question === question?.id ? data?.first_rows : undefined;
  const rows = useMemo(() => roll.data?.rows ?? first ?? [], [roll.data, first]);
  const began = roll.data?.began ?? data?.began;
  useLayoutEffect(() => store.hear(rows, began), [store, rows, began]); // each line hears for itself what changes of it
  const names = useOrder(rows.map(nameOf).join(), folioId === null ? order : "roster", `${assignmentId} ${question?.id}`, () => rows);
  const wantedName = folioId !== null && label ? nameOf({ folio_id: folioId, question: data?.questions.find((one) => one.label === label)?.id ?? "" }) : at;
  const here = names.includes(at) ? at : names.includes(wantedName) ? wantedName : (names[0] ?? "");
  const answer = useSyncExternalStore(store.subscribe, () => store.answer(here));
  const others = useAtWork(assignmentId, answer?.row.folio_id, answer?.row.question, saving === "saved", data?.changed);
  const counted = useFigures(store, names, question?.points ?? 0);
  const figures = roll.data || !question ? counted : { ...question, of: question.answers }; // while not all are here
  const student = data?.students.find((one) => one.folio_id === folioId);
  usePlaceInTab([question?.label ?? student?.student, data?.assignment.title].filter(Boolean).join(" · "));

  const isThere = data !== undefined;
  useEffect(() => (scroller.current ? watchPen(scroller.current) : undefined), [isThere]);
  const go = useCallback((name: string) => {
    setAt(name);
    setNoting(false);
    const line = [...(scroller.current?.querySelectorAll<HTMLElement>("[data-answer]") ?? [])].find((one) => one.dataset.answer === name);
    if (line && scroller.current) intoSight(line, scroller.current);
  }, []);
  const next = useCallback(
    (by: 1 | -1) => {
      const to = names[names.indexOf(here) + by];
      if (to !== undefined) go(to);
    },
    [names, here, go],
  );
  const latestNext = useLatest(next); // else each step would draw all three hundred lines anew
  const onNext = useCallback((by: 1 | -1) => latestNext.current(by), [latestNext]);
  const toQuestion = (by: 1 | -1) => {
    if (!data) return;
    if (folioId !== null) {
      const to = data.students[data.students.findIndex((one) => one.folio_id === folioId) + by];
      if (to) void navigate(`/marking/${assignmentId}/${to.folio_id}`);
      return;
    }
    const to = data.questions[data.questions.findIndex((one) => one.id === question?.id) + by];
    if (to) void navigate({ hash: `#${encodeURIComponent(to.label)}` });
  };
  const undo = (again: boolean) => {
    const where = again ? store.redo() : store.undo();
    if (where !== undefined && names.includes(where)) go(where);
  };
  const reload = useCallback(() => void queries.invalidateQueries({ queryKey: ["marking roll", assignmentId] }), [queries, assignmentId]);
  useMarkingKeys({
    onTool: setTool,
    onNext: next,
    onQuestion: toQuestion,
    onNote: () => setNoting(true),
    onWhole: () => setWhole((now) => !now),
    onBlank: () => answer && store.give(here, { ...answer.given, points: "0", notAttempted: true }),
    onUndo: undo,
    onHelp: () => setOpen("keys"),
  });
  const unmarked = figures.of - figures.marked;
  const error = overview.error ?? roll.error;
  return (
    <div className="marking">
      <Masthead help="marking" title={data?.assignment.title ?? ""} course={data?.assignment.course} />
      {error && <Trouble error={error} onRetry={() => void overview.refetch().then(() => roll.refetch())} />}
      {data && (
        <>
          <div className="marking-head">
            <h1>{question ? question.label : student?.student}</h1>
            <p>
              {question?.title && <span className="marking-title">{question.title} </span>}
              <span className="soft">
                {question ? `${count(question.points, "point")} · everybody’s answer, one under another` : studentWords(student)}
              </span>
            </p>
            <nav aria-label="Ways through the marking">
              {folioId === null ? (
                <>
                  <Choice label="Order" value={order} options={ORDERS} onChange={(wanted) => setOrder(wanted as Order)} />
                  {answer && <Link to={`/marking/${assignmentId}/${answer.row.folio_id}`}>{answer.row.student}’s whole folio</Link>}
                </>
              ) : (
                <>
                  <Link to={`/marking/${assignmentId}${answer ? `#${encodeURIComponent(answer.row.label)}` : ""}`}>Everybody’s {answer?.row.label ?? "answers"}</Link>
                  {student && <Link to={`/reading/${assignmentId}/${folioId}/${student.edition}`}>Page by page</Link>}
                  {student && data.instructs && (
                    <a href={`/api/folios/${folioId}/editions/${student.edition}/ink.inkml`} download>
                      Ink as InkML
                    </a>
                  )}
                </>
              )}
              <button type="button" className="plain" onClick={() => setOpen("keys")}>
                Keys
              </button>
              {data.instructs && (
                <button type="button" className="plain" onClick={() => setOpen("scheme")}>
                  How it is marked …
                </button>
              )}
            </nav>
          </div>
          <div className="marking-body">
            <main className="marking-main">
              {/* Once around all lines: the fields of each answer come and go with every key. */}
              <Themed>
              <Tools {...{ tool, finger, hasTouch }} onTool={setTool} onFinger={setFinger} />
              {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- a scrolling region must be reachable by key */}
              <div className="marking-roll" ref={scroller} tabIndex={0} role="region" aria-label={question ? `Everybody’s answer to ${question.label}` : "All answers of one student"}>
                {roll.data && names.length === 0 && <p className="soft marking-empty">Nothing is handed in yet. What is handed in stands here to be marked.</p>}
                {roll.isPending && names.length === 0 && <p className="soft marking-empty">Getting the answers …</p>}
                <ol>
                  {names.map((name, number) => (
                    <AnswerLine
                      key={name}
                      {...{ store, name, tool, finger }}
                      place={`${number + 1} of ${roll.data ? names.length : figures.of}`}
                      isAt={name === here}
                      byStudent={folioId === null}
                      wholePages={whole}
                      step={data.scheme.step}
                      zone={data.assignment.time_zone}
                      said={roll.data?.said ?? NOTHING_SAID}
                      others={list(others.filter((one) => nameOf({ folio_id: one.folio_id, question: one.question }) === name).map((one) => one.name))}
                      noting={noting && name === here}
                      roll={scroller}
                      onGo={go}
                      onNext={onNext}
                      onNote={setNoting}
                      onReload={reload}
                    />
                  ))}
                </ol>
              </div>
              </Themed>
            </main>
            <Side
              {...{ assignmentId, question, folioId }}
              overview={data}
              shown={figures}
              said={roll.data?.said ?? NOTHING_SAID}
              onSay={(text) => answer && store.give(here, { ...answer.given, note: answer.given.note ? `${answer.given.note}\n${text}` : text })}
            />
          </div>
          <footer className="marking-foot">
            <span>
              <strong>
                {figures.marked} of {figures.of}
              </strong>{" "}
              {question ? `answers to ${question.label} marked` : "answers marked"}
              {question && figures.mean !== null && `, mean ${pointsWords(Math.round(figures.mean * 100) / 100)}`}
            </span>
            <span className={saving === "refused" ? "red" : "soft"} role="status">
              {SAVING_WORDS[saving]}
            </span>
            <button type="button" className="plain" disabled={store.mayUndo() === undefined} onClick={() => undo(false)}>
              Undo
            </button>
            <button type="button" className="plain" aria-pressed={whole} onClick={() => setWhole(!whole)}>
              {whole ? "Only the answers" : "Whole pages"}
            </button>
            {answer && (
              <Link to={`/reading/${assignmentId}/${answer.row.folio_id}/${answer.row.edition}#${encodeURIComponent(answer.row.label)}`}>
                Ask {answer.row.student} for a page again
              </Link>
            )}
            <span className="marking-gap" />
            <span className="soft">Students see nothing before it is given back.</span>
            {data.instructs && (
              <LinkButton first={unmarked === 0} small to={`/giving-back/${assignmentId}`}>
                Give back …
              </LinkButton>
            )}
          </footer>
          {open === "keys" && <MarkingKeys onClose={() => setOpen(null)} />}
          {open === "scheme" && (
            <SchemeDialog
              assignmentId={assignmentId}
              scheme={data.scheme}
              onClose={() => setOpen(null)}
              onSaved={(scheme) => {
                setOpen(null);
                queries.setQueryData<Schemas["MarkingOut"]>(queryKeys.marking(assignmentId), (now) => now && { ...now, scheme });
                void queries.invalidateQueries({ queryKey: queryKeys.marking(assignmentId) });
                reload();
              }}
            />
          )}
        </>
      )}
    </div>
  );
}

function studentWords(student: Schemas["MarkedStudentOut"] | undefined): string {
  if (!student) return "";
  const total = student.total === null ? "nothing marked yet" : `${pointsWords(student.total)} so far`;
  return [student.number && `no. ${student.number}`, "all answers of one student", total].filter(Boolean).join(" · ");
}

const NOTHING_SAID: never[] = [];
const SAVING_WORDS = { saved: "Saved", saving: "Saving …", waiting: "No network: kept on this device, sent when it is back", refused: "Something was not taken: look at the red words" };

/** The names in their order. It stays as it is while answers are marked: nothing moves away under the marker's hand. */
function useOrder(key: string, order: Order, seed: string, rows: () => Parameters<typeof ordered>[0]): string[] {
  // eslint-disable-next-line react-hooks/exhaustive-deps -- only other answers or another order move anything
  return useMemo(() => ordered(rows(), order, seed).map(nameOf), [key, order, seed]);
}

/** While the first answers are being drawn, the server and the line are theirs. */
const FIRST_SEEN_MS = 400;

function useLater(started: boolean, ms: number): boolean {
  const [over, setOver] = useState(false);
  useEffect(() => {
    if (!started) return;
    const timer = setTimeout(() => setOver(true), ms);
    return () => clearTimeout(timer);
  }, [started, ms]);
  return over;
}

function useFigures(store: ReturnType<typeof useMarkingStore>, names: readonly string[], most: number) {
  const [kept] = useState<{ now: ReturnType<typeof figuresOf> | null; key: string }>(() => ({ now: null, key: "" }));
  return useSyncExternalStore(store.subscribe, () => {
    const points = names.map((name) => {
      const answer = store.answer(name);
      if (!answer) return null;
      return answer.given.points ?? (answer.row.by_itself ? answer.row.worth : null);
    });
    const key = `${most} ${points.length} ${points.join()}`;
    if (kept.key !== key || kept.now === null) Object.assign(kept, { key, now: figuresOf(points, most) });
    return kept.now as ReturnType<typeof figuresOf>;
  });
}

const ABOVE_PX = 60;

/** Whole where there is room for it, with a little of the answer before. */
function intoSight(line: HTMLElement, roll: HTMLElement) {
  const [top, bottom] = [line.offsetTop, line.offsetTop + line.offsetHeight];
  const inSight = top >= roll.scrollTop && bottom <= roll.scrollTop + roll.clientHeight;
  if (!inSight) roll.scrollTo({ top: Math.max(0, top - ABOVE_PX) });
}
