import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import type { Schemas } from "../shared/api/client";
import { dayAndTime } from "../shared/time";
import { Trouble } from "../shared/ui/Trouble";
import { count } from "../shared/words";
import "./CameraInvitation.css";
import { Dialog } from "../shared/ui/Dialog";
import { QrCode } from "../shared/ui/QrCode";
import type { CameraLinks } from "./cameraLinks";

interface Props {
  of: CameraLinks;
  zone: string;
  /** On the board; none while there is no board yet. */
  pages: number | null;
  onClose: () => void;
}

/** A code for the phone: it then adds pages to this folio, and can do nothing else; the right is short and can be ended. */
export function CameraInvitation({ of, zone, pages, onClose }: Props) {
  const queries = useQueryClient();
  const links = useQuery({ queryKey: of.key, refetchInterval: 2000, queryFn: of.list });
  const invite = useMutation({
    mutationFn: of.invite,
    onSuccess: ({ link }) => {
      queries.setQueryData<Schemas["CameraLinkOut"][]>(of.key, (before) => [link, ...(before ?? [])]); // it is valid at once
      return queries.invalidateQueries({ queryKey: of.key });
    },
  });
  const end = useMutation({ mutationFn: of.end, onSuccess: () => queries.invalidateQueries({ queryKey: of.key }) });
  const { mutate: ask } = invite;
  const asked = useRef(false);
  useEffect(() => {
    if (asked.current) return;
    asked.current = true;
    ask();
  }, [ask]);
  const fresh = invite.data;
  const opened = links.data?.find((link) => link.id === fresh?.link.id)?.opened;
  return (
    <Dialog title="Photograph by phone" width={860} onClose={onClose}>
      {invite.error && <Trouble error={invite.error} onRetry={() => ask()} />}
      {fresh && (
        <div className="invitation">
          <QrCode modules={fresh.modules} label="Code for the phone's camera" />
          <div>
            <ol>
              <li>Point the phone's camera at this code and open the link. No sign-in is asked.</li>
              <li>
                {pages === null
                  ? "Send a test picture from it. When you begin, the phone is the camera of your board by itself."
                  : "Photograph the sheets one after another. They appear on this board, in that order."}
              </li>
              {pages !== null && <li>Look them over here, and hand in here.</li>}
            </ol>
            <p role="status">
              {opened ? (
                <>
                  <strong>A phone is ready.</strong> {pages !== null && `${count(pages, "page")} on the board.`}
                </>
              ) : (
                "Waiting for a phone …"
              )}
            </p>
            <p>
              Or type this on the phone: <strong className="invitation-typed">{fresh.typed_address.replace(/^https?:\/\//, "")}</strong> and
              the figures <strong className="invitation-typed">{`${fresh.figures.slice(0, 3)} ${fresh.figures.slice(3)}`}</strong>
            </p>
            <p className="soft">
              Whoever has this code can add pages to your folio until {dayAndTime(fresh.link.until, zone)}, and take theirs away
              again; they can see, change and hand in nothing else.
            </p>
          </div>
        </div>
      )}
      {links.data && links.data.length > 0 && (
        <ul className="invitation-links" aria-label="Camera links that are valid">
          {links.data.map((link) => (
            <li key={link.id}>
              <span>
                {link.id === fresh?.link.id ? "This code" : "An earlier code"}: {link.opened ? "opened by a phone" : "not opened yet"},{" "}
                {count(link.pages, "page")} came, valid until {dayAndTime(link.until, zone)}
              </span>
              <button type="button" className="plain" onClick={() => end.mutate(link.id)}>
                End it now
              </button>
            </li>
          ))}
        </ul>
      )}
      {fresh && links.data && !links.data.some((link) => link.id === fresh.link.id) && (
        <p className="dialog-foot">
          This code has ended.{" "}
          <button type="button" className="plain" onClick={() => ask()}>
            Make a new one
          </button>
        </p>
      )}
    </Dialog>
  );
}
