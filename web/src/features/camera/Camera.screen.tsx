import { mayAddPages } from "../../folio/useBoard";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { useLocation, useParams } from "react-router";
import { Shooting } from "../../folio/shooting/Shooting";
import type { Schemas } from "../../shared/api/client";
import { Problem } from "../../shared/api/problem";
import { cameraOf, cameraQueue, goOnFor } from "../../shared/sending/queues";
import { onTheWay, type Upload } from "../../shared/sending/UploadQueue";
import { correctClock, dayAndTime } from "../../shared/time";
import { lazily } from "../../shared/ui/later";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import "./Camera.css";
import { askCamera, cameraLine, lastSecret, lookThrough, remember, secretOf } from "./cameraLine";
import { PHONE } from "./phone";
import { Taken, type TakenPage } from "./Taken";
import { TestShot } from "./TestShot";
import { queryKeys } from "../../shared/queryKeys";

const Typed = lazily(async () => (await import("./Typed")).Typed);

/** A phone that was given the link: it photographs pages into one folio, and does nothing else. */
export default function Camera() {
  const { letters } = useParams();
  const inAddress = secretOf(useLocation().hash);
  const [secret, setSecret] = useState(inAddress || (letters ? "" : lastSecret()));
  const used = inAddress || secret;
  if (!used) return <Typed letters={letters ?? ""} onSecret={setSecret} />;
  return <Linked secret={used} />;
}

function Linked({ secret }: { secret: string }) {
  const camera = useQuery({
    queryKey: queryKeys.camera(secret),
    refetchInterval: (query) => (query.state.data?.test_pictures.some((one) => one.state === "waiting") ? 1000 : 5000),
    queryFn: async () => {
      const told = await askCamera(secret);
      correctClock(told.now);
      return told;
    },
  });
  if (!camera.data) {
    return (
      <main className="camera camera-words">
        <h1>Inked Folio camera</h1>
        {camera.isError ? (
          <Trouble error={camera.error} onRetry={() => void camera.refetch()} />
        ) : (
          <p className="soft">Asking whose folio this is …</p>
        )}
      </main>
    );
  }
  const ended = camera.error instanceof Problem && camera.error.status !== 0 ? camera.error : null;
  return <Ready told={camera.data} secret={secret} ended={ended} />;
}

function Ready({ told, secret, ended }: { told: Schemas["CameraOut"]; secret: string; ended: Problem | null }) {
  const { assignment, folio } = told;
  return (
    <main className="camera">
      <header>
        <h1>{told.student}</h1>
        <p>
          {assignment.course} {assignment.title} · {folio ? "until" : "this phone is linked until"}{" "}
          {dayAndTime(folio ? folio.closes : told.until, assignment.time_zone)}
        </p>
      </header>
      {ended && (
        <p className="camera-ended" role="alert">
          {ended.message}
        </p>
      )}
      {folio ? (
        <Photographing {...{ told, folio, secret }} ended={ended !== null} />
      ) : (
        <TestShot told={told} secret={secret} />
      )}
    </main>
  );
}

interface PhotographingProps {
  told: Schemas["CameraOut"];
  folio: Schemas["CameraFolioOut"];
  secret: string;
  ended: boolean;
}

function Photographing({ told, folio, secret, ended }: PhotographingProps) {
  const { id: folioId, sides } = folio;
  const queue = useMemo(() => cameraQueue(folioId, cameraLine(folioId)), [folioId]);
  useEffect(() => {
    remember(folioId, secret);
    goOnFor(cameraOf(folioId)); // what an earlier link left on the phone
  }, [folioId, secret]);
  const closes = Date.parse(folio.closes);
  const pledgesEnd = Date.parse(folio.pledges_end);
  useEffect(() => {
    queue.tellLimits({ closes, pledgesEnd }, sides);
  }, [queue, closes, pledgesEnd, sides]);
  const uploads = useSyncExternalStore(queue.subscribe, queue.uploads);
  const queries = useQueryClient();
  const safe = uploads.filter((one) => one.state === "safe").length;
  useEffect(() => {
    if (safe > 0) void queries.invalidateQueries({ queryKey: queryKeys.camera(secret) });
  }, [safe, secret, queries]);
  const [again, setAgain] = useState<TakenPage | null>(null);
  const next = folio.pages + onTheWay(uploads).filter((one) => one.insteadOf === null).length + 1;
  const open = mayAddPages(folio.phase) && !ended;
  // Pages on their way have the line for themselves.
  const mayLook = folio.tells_sheets && onTheWay(uploads).length === 0;
  const look = useMemo(() => {
    const viewer = crypto.randomUUID();
    return (jpeg: Blob) => lookThrough(secret, viewer, jpeg);
  }, [secret]);
  const what = again ? `page ${again.number} again` : `page ${next}`;
  const keep = (picture: File) => {
    void queue.addNext(picture, told.limits, again?.page_id ?? null);
    setAgain(null);
  };
  return (
    <>
      {!open && !ended && (
        <p className="camera-ended" role="alert">
          Closed for pages. What is on its way is still taken where it was in time.
        </p>
      )}
      {again && (
        <p className="camera-again" role="status">
          The next picture takes the place of page {again.number}.{" "}
          <button type="button" className="plain" onClick={() => setAgain(null)}>
            No, leave it
          </button>
        </p>
      )}
      {open && (
        <Shooting
          what={what}
          name={`page-${String(again?.number ?? next).padStart(2, "0")}`}
          keep={again ? "Take it instead" : "Keep this page"}
          own={PHONE}
          onKeep={keep}
          look={mayLook ? look : null}
        />
      )}
      <Counted pages={folio.pages} sides={sides} uploads={uploads} next={open ? next : null} />
      <Taken taken={folio.taken} uploads={uploads} open={open} secret={secret} onAgain={setAgain} />
    </>
  );
}

/** How many are in, of how many where that was said, and what comes next. */
function Counted({ pages, sides, uploads, next }: { pages: number; sides: number | null; uploads: readonly Upload[]; next: number | null }) {
  const coming = onTheWay(uploads).length;
  const of = sides === null ? "" : ` of ${count(sides, "side")}`;
  const done = sides !== null && pages >= sides && coming === 0;
  return (
    <p className="camera-count" role="status">
      <strong>
        {pages}
        {of}
      </strong>{" "}
      {of ? "safe" : pages === 1 ? "page safe" : "pages safe"}
      {coming > 0 && <span className="red"> · {count(coming, "picture")} still on this phone or on the way</span>}
      {next !== null && coming === 0 && pages > 0 && (
        <span className="soft">
          {" "}
          · {done ? "All sides are here: look them over on the computer, and hand in there." : `Next: page ${next}. When all are here, hand in on the computer.`}
        </span>
      )}
    </p>
  );
}
