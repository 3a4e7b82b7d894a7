import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState, useSyncExternalStore } from "react";
import { useLocation } from "react-router";
import type { Schemas } from "../../shared/api/client";
import { Problem } from "../../shared/api/problem";
import { cameraOf, cameraQueue, goOnFor } from "../../shared/sending/queues";
import { onTheWay, type Upload, type UploadQueue } from "../../shared/sending/UploadQueue";
import { correctClock, dayAndTime } from "../../shared/time";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import "./Camera.css";
import { askCamera, cameraLine, remember, secretOf } from "./cameraLine";
import { Hint } from "./Hint";
import { useViewfinder } from "./useViewfinder";
import { queryKeys } from "../../shared/queryKeys";

/** A phone that was given the link: it photographs pages into one folio, and does nothing else. */
export default function Camera() {
  const secret = secretOf(useLocation().hash);
  const camera = useQuery({
    queryKey: queryKeys.camera(secret),
    refetchInterval: 5000,
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
  return <Ready told={camera.data} secret={secret} trouble={camera.error} />;
}

function Ready({ told, secret, trouble }: { told: Schemas["CameraOut"]; secret: string; trouble: Error | null }) {
  const folioId = told.folio_id;
  const queue = useMemo(() => cameraQueue(folioId, cameraLine(folioId)), [folioId]);
  useEffect(() => {
    remember(folioId, secret);
    goOnFor(cameraOf(folioId)); // what an earlier link left on the phone
  }, [folioId, secret]);
  const closes = Date.parse(told.closes);
  const pledgesEnd = Date.parse(told.pledges_end);
  useEffect(() => {
    queue.tellLimits({ closes, pledgesEnd }, told.sides);
  }, [queue, closes, pledgesEnd, told.sides]);
  const uploads = useSyncExternalStore(queue.subscribe, queue.uploads);
  const queries = useQueryClient();
  const safe = uploads.filter((one) => one.state === "safe").length;
  useEffect(() => {
    if (safe > 0) void queries.invalidateQueries({ queryKey: queryKeys.camera(secret) });
  }, [safe, secret, queries]);
  const next = told.pages + onTheWay(uploads).length + 1;
  const ended = trouble instanceof Problem && trouble.status !== 0 ? trouble : null;
  const zone = told.assignment.time_zone;
  const open = ["writing", "handover", "late"].includes(told.phase);
  return (
    <main className="camera">
      <header>
        <h1>{told.student}</h1>
        <p>
          {told.assignment.course} {told.assignment.title} · until {dayAndTime(told.closes, zone)}
        </p>
      </header>
      {ended && (
        <p className="camera-ended" role="alert">
          {ended.message}
        </p>
      )}
      {!open && (
        <p className="camera-ended" role="alert">
          Closed for pages. What is on its way is still taken where it was in time.
        </p>
      )}
      {open && !ended && <Shooting queue={queue} limits={told.limits} first={next} />}
      <Counted told={told} uploads={uploads} />
      <Strip uploads={uploads} />
    </main>
  );
}

interface ShootingProps {
  queue: UploadQueue;
  limits: Schemas["LimitsOut"];
  /** The number the next page will have. */
  first: number;
}

/** Live where the browser can, else the camera's own dialog; each picture is looked at before it goes. */
function Shooting({ queue, limits, first }: ShootingProps) {
  const video = useRef<HTMLVideoElement>(null);
  const dialog = useRef<HTMLInputElement>(null);
  const [picture, setPicture] = useState<File | null>(null);
  const { finder, take } = useViewfinder(video, true);
  const name = `page-${String(first).padStart(2, "0")}.jpg`;
  const again = () => {
    setPicture(null);
    if (finder === "none") dialog.current?.click();
  };
  const keep = () => {
    if (picture) void queue.addNext(picture, limits);
    setPicture(null);
  };
  return (
    <section aria-label="Camera">
      <div className="camera-finder" hidden={finder === "none" || picture !== null}>
        <video ref={video} playsInline muted aria-label="What the camera sees" />
        <i className="camera-frame" aria-hidden="true" />
        {finder === "live" && picture === null && <Hint video={video} />}
      </div>
      {picture && <Look picture={picture} />}
      {!picture && finder === "none" && (
        <p className="soft camera-none">
          The live view is not allowed or not possible here. The phone's own camera does it as well.
        </p>
      )}
      <p className="camera-buttons">
        {picture ? (
          <>
            <button type="button" className="camera-second" onClick={again}>
              Take again
            </button>
            <button type="button" className="camera-first" onClick={keep}>
              Keep this page
            </button>
          </>
        ) : (
          <>
            <button
              type="button"
              className="camera-first"
              disabled={finder === "starting"}
              onClick={() => (finder === "live" ? void take(name).then(setPicture) : dialog.current?.click())}
            >
              Photograph page {first}
            </button>
            {finder === "live" && (
              <button type="button" className="camera-second" onClick={() => dialog.current?.click()}>
                Use the phone's own camera
              </button>
            )}
          </>
        )}
      </p>
      <input
        ref={dialog}
        type="file"
        hidden
        accept="image/*"
        capture="environment"
        aria-label="The phone's own camera"
        onChange={(event) => {
          setPicture(event.target.files?.[0] ?? null);
          event.target.value = "";
        }}
      />
    </section>
  );
}

function Look({ picture }: { picture: File }) {
  const address = useMemo(() => URL.createObjectURL(picture), [picture]);
  useEffect(() => () => URL.revokeObjectURL(address), [address]);
  return <img className="camera-look" src={address} alt="As it was just taken. Is all of the page in it, and sharp?" />;
}

/** How many are in, of how many where that was said. */
function Counted({ told, uploads }: { told: Schemas["CameraOut"]; uploads: readonly Upload[] }) {
  const coming = onTheWay(uploads).length;
  const sides = told.sides === null ? "" : ` of ${count(told.sides, "side")}`;
  return (
    <p className="camera-count" role="status">
      <strong>
        {told.pages}
        {sides}
      </strong>{" "}
      {sides ? "safe" : told.pages === 1 ? "page safe" : "pages safe"}
      {coming > 0 && <span className="red"> · {count(coming, "picture")} still on this phone or on the way</span>}
    </p>
  );
}

function Strip({ uploads }: { uploads: readonly Upload[] }) {
  if (uploads.length === 0) return null;
  return (
    <ul className="camera-strip" aria-label="Pictures taken here">
      {uploads.toReversed().map((one) => (
        <li key={one.key}>
          <Small picture={one.file} />
          <span className={one.state === "safe" ? "" : "red"}>
            {one.state}
            {one.waitsFor && `, waiting for ${one.waitsFor === "your sign-in" ? "a new link" : one.waitsFor}`}
          </span>
          {one.message && <span>{one.message}</span>}
        </li>
      ))}
    </ul>
  );
}

function Small({ picture }: { picture: File }) {
  const address = useMemo(() => URL.createObjectURL(picture), [picture]);
  useEffect(() => () => URL.revokeObjectURL(address), [address]);
  return <img src={address} alt="" />;
}
