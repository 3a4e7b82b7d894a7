import { mayAddPages } from "../../folio/useBoard";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { uploadQueue } from "../../shared/sending/queues";
import { useSignedIn } from "../../shared/me";
import { dayAndTime } from "../../shared/time";
import { Button } from "../../shared/ui/Button";
import { Masthead } from "../../shared/ui/Masthead";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import { forgetShared, sharedFiles } from "./sharedFiles";
import "./Shared.css";


/** Pictures and PDFs from the device's share menu, and the board they are for. */
export default function Shared() {
  const { email } = useSignedIn();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const files = useQuery({ queryKey: queryKeys.shared, queryFn: sharedFiles, staleTime: Infinity });
  const folios = useQuery({ queryKey: queryKeys.myFolios, queryFn: () => answer(api.GET("/api/my-folios")) });
  const boards = (folios.data?.folios ?? []).filter((one) => one.folio_id !== null && mayAddPages(one.window.phase));
  const none = files.data?.length === 0;
  const put = async (folioId: number) => {
    const { limits } = await answer(api.GET("/api/folios/{folio_id}", { params: { path: { folio_id: folioId } } }));
    await uploadQueue(folioId, email).add(files.data ?? [], limits);
    await forget(); // the queue keeps them now
    await navigate(`/folios/${folioId}`);
  };
  const forget = async () => {
    await forgetShared();
    queries.setQueryData(queryKeys.shared, []);
  };
  return (
    <div className="screen">
      <Masthead help="folios" title="Shared with Inked Folio" />
      <main className="shared">
        <h1>{files.data && !none ? `${count(files.data.length, "file")} to lay on a board` : "Nothing was shared"}</h1>
        {folios.isError && <Trouble error={folios.error} onRetry={() => void folios.refetch()} />}
        {none && (
          <p>
            Nothing has arrived from the share menu. Open My folios once, so that this browser is ready for it, then share the
            pictures again; or add them on the board itself.
          </p>
        )}
        {files.data && !none && (
          <>
            <ul className="shared-files">
              {files.data.map((file, at) => (
                <li key={at}>{file.name}</li>
              ))}
            </ul>
            {folios.data && boards.length === 0 && (
              <p>No board of yours takes pages now. The files are kept here: begin the work, then come back to this page.</p>
            )}
            <ul className="shared-boards">
              {boards.map((one) => (
                <Target key={one.folio_id} line={one} onChoose={() => void put(one.folio_id ?? 0)} />
              ))}
            </ul>
            <p>
              <button type="button" className="plain" onClick={() => void forget()}>
                Let go of them
              </button>
            </p>
          </>
        )}
      </main>
    </div>
  );
}

function Target({ line, onChoose }: { line: Schemas["FolioLineOut"]; onChoose: () => void }) {
  return (
    <li>
      <Button first onClick={onChoose}>
        {`Onto ${line.assignment.title}`}
      </Button>
      <span className="soft">
        {line.assignment.course}, until {dayAndTime(line.window.closes, line.assignment.time_zone)}
      </span>
    </li>
  );
}
