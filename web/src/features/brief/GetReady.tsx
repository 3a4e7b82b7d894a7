import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { CameraInvitation } from "../../folio/CameraInvitation";
import { linksOfAssignment } from "../../folio/cameraLinks";
import { Judgement } from "../../folio/Judgement";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Trouble } from "../../shared/ui/Trouble";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime, deviceClockIsOff, serverNow } from "../../shared/time";
import { Button } from "../../shared/ui/Button";
import { size } from "../../shared/words";
import { checkDevice, checked, type DeviceCheck, LITTLE_ROOM, sendTestPicture } from "./deviceCheck";

/** What can be seen to days before the clock runs: this device, a phone, and one picture that is judged. */
export function GetReady({ brief }: { brief: Schemas["BriefOut"] }) {
  const { id, time_zone: zone } = brief.assignment;
  const queries = useQueryClient();
  const key = queryKeys.getReady(id);
  const ready = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/assignments/{assignment_id}/get-ready", { params: { path: { assignment_id: id } } })),
    refetchInterval: (query) => (query.state.data?.test_pictures[0]?.state === "waiting" ? 1000 : 10_000),
  });
  const [device, setDevice] = useState(() => checked(id));
  const check = useMutation({ mutationFn: () => checkDevice(id), onSuccess: setDevice });
  const test = useMutation({
    mutationFn: (picture: File) => sendTestPicture(id, picture),
    onSuccess: () => queries.invalidateQueries({ queryKey: key }),
  });
  const [linking, setLinking] = useState(false);
  const camera = useRef<HTMLInputElement>(null);
  const opened = ready.data?.links.find((link) => link.opened);
  const [picture] = ready.data?.test_pictures ?? [];
  const clock = deviceClockIsOff();
  return (
    <section className="get-ready" aria-label="Get ready">
      <h2>Get ready</h2>
      <p className="soft">Any day before: it starts no clock and counts for nothing.</p>
      <ul>
        <Item done={device !== null} name="This device">
          {device ? <Device device={device} zone={zone} /> : "Not checked yet."}
          {clock && (
            <p>
              <strong>Its clock is {clock}.</strong> The times shown here are the server's, and they are what counts.
            </p>
          )}
          {check.error && <Trouble error={check.error} />}
          <Button onClick={() => check.mutate()} busy={check.isPending}>
            {device ? "Check it again" : "Check this device"}
          </Button>
        </Item>
        <Item done={opened !== undefined} name="A phone as camera">
          {opened
            ? `Linked, until ${dayAndTime(opened.until, zone)}. It stays linked when you begin.`
            : "If you photograph with a phone and work at a computer. It stays linked when you begin."}
          <Button onClick={() => setLinking(true)}>{opened ? "Link another phone" : "Link a phone"}</Button>
        </Item>
        <Item done={picture?.state === "judged"} name="A test picture">
          {picture ? <Judgement picture={picture} rules={brief.paper_rules} /> : "One sheet with a few lines of writing shows whether all can be read."}
          {picture?.preview && (
            <img className="get-ready-picture" src={picture.preview} width={picture.width} height={picture.height} alt="The sheet as it would be read" />
          )}
          {test.error && <Trouble error={test.error} />}
          <Button onClick={() => camera.current?.click()} busy={test.isPending}>
            {picture ? "Send another" : "Send a test picture"}
          </Button>
          <input
            ref={camera}
            type="file"
            hidden
            accept="image/*"
            capture="environment"
            aria-label="Test picture"
            onChange={(event) => {
              const [chosen] = event.target.files ?? [];
              if (chosen) test.mutate(chosen);
              event.target.value = "";
            }}
          />
        </Item>
      </ul>
      {linking && (
        <CameraInvitation
          of={linksOfAssignment(id)}
          zone={zone}
          pages={null}
          onClose={() => {
            setLinking(false);
            void queries.invalidateQueries({ queryKey: key });
          }}
        />
      )}
    </section>
  );
}

function Item({ done, name, children }: { done: boolean; name: string; children: React.ReactNode }) {
  return (
    <li className={done ? "get-ready-done" : ""}>
      <strong>
        {name}
        <span className="soft">{done ? " · done" : " · to do"}</span>
      </strong>
      <div>{children}</div>
    </li>
  );
}

function Device({ device, zone }: { device: DeviceCheck; zone: string }) {
  const tight = device.room !== null && device.room < LITTLE_ROOM;
  return (
    <>
      <p>
        It sends {device.seconds < 1 ? "well" : "slowly"}: a page takes about {Math.max(1, Math.round(device.secondsAPage))} s. Checked here{" "}
        {dayAndTime(Math.min(device.at, serverNow()), zone)}.
      </p>
      {tight && (
        <p className="red">
          Little room is left on this device ({size(device.room ?? 0)}). Without room pages that wait for a network are kept only
          as long as the browser is open: delete something first.
        </p>
      )}
      {!tight && device.room !== null && <p>There is room for pages that wait for a network.</p>}
    </>
  );
}
