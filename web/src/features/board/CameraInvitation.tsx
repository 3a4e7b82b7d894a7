import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { dayAndTime } from "../../shared/time";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import "./CameraInvitation.css";
import { Dialog } from "../../shared/ui/Dialog";
import { QrCode } from "../../shared/ui/QrCode";
import { queryKeys } from "../../shared/queryKeys";

interface Props {
  board: Schemas["BoardOut"];
  pages: number;
  onClose: () => void;
}

/** A code for the phone: it then adds pages to this folio, and can do nothing else; the right is short and can be ended. */
export function CameraInvitation({ board, pages, onClose }: Props) {
  const queries = useQueryClient();
  const path = { folio_id: board.id };
  const zone = board.assignment.time_zone;
  const links = useQuery({
    queryKey: queryKeys.cameraLinks(board.id),
    refetchInterval: 2000,
    queryFn: () => answer(api.GET("/api/folios/{folio_id}/camera-links", { params: { path } })),
  });
  const invite = useMutation({
    mutationFn: () => answer(api.POST("/api/folios/{folio_id}/camera-links", { params: { path } })),
    onSuccess: ({ link }) => {
      const key = queryKeys.cameraLinks(board.id);
      queries.setQueryData<Schemas["CameraLinkOut"][]>(key, (before) => [link, ...(before ?? [])]); // it is valid at once
      return queries.invalidateQueries({ queryKey: key });
    },
  });
  const end = useMutation({
    mutationFn: (id: number) =>
      answer(api.DELETE("/api/folios/{folio_id}/camera-links/{link_id}", { params: { path: { ...path, link_id: id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: queryKeys.cameraLinks(board.id) }),
  });
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
              <li>Photograph the sheets one after another. They appear on this board, in that order.</li>
              <li>Look them over here, and hand in here.</li>
            </ol>
            <p role="status">
              {opened ? (
                <>
                  <strong>A phone is ready.</strong> {count(pages, "page")} on the board.
                </>
              ) : (
                "Waiting for a phone …"
              )}
            </p>
            <p className="soft">
              Whoever has this code can add pages to your folio until {dayAndTime(fresh.link.until, zone)}; they can see, change and
              hand in nothing. Or open this address on the phone:
            </p>
            <p className="hash">{fresh.address}</p>
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
