import { pageName } from "../../../folio/pageName";
import type { Schemas } from "../../../shared/api/client";
import type { Upload } from "../../../shared/sending/UploadQueue";
import { Button } from "../../../shared/ui/Button";
import { Dialog } from "../../../shared/ui/Dialog";

type Page = Schemas["PageOut"];
interface Props {
  refused: readonly Upload[];
  again: readonly Upload[];
  failed: readonly Page[];
  removed: readonly Page[];
  onRestore: (page: number) => void;
  onDismiss: () => void;
  onClose: () => void;
}

/** Each file that did not become a page, with its reason; each page that was removed, to be restored. */
export function ArrivalsDialog({ refused, again, failed, removed, onRestore, onDismiss, onClose }: Props) {
  return (
    <Dialog title="Files and pages that are not on the board" onClose={onClose}>
      <ul className="arrivals-list">
        {refused.map((one) => (
          <li key={`u${one.key}`}>
            <span>
              <strong className="red">{one.file.name}</strong> {one.message}
            </span>
          </li>
        ))}
        {failed.map((page) => (
          <li key={`p${page.id}`}>
            <span>
              <strong className="red">{pageName(page)}</strong> {page.message}
            </span>
          </li>
        ))}
        {again.map((one) => (
          <li key={`a${one.key}`}>
            <span className="soft">{one.file.name} is here already; no second page was made.</span>
          </li>
        ))}
        {removed.map((page) => (
          <li key={`r${page.id}`}>
            {page.preview && <img src={page.preview} alt="" />}
            <span>
              {pageName(page)} <span className="soft">was removed. It is kept and will not be handed in.</span>
            </span>
            <button type="button" className="plain" onClick={() => onRestore(page.id)}>
              Restore<span className="unseen"> {page.file_name}</span>
            </button>
          </li>
        ))}
      </ul>
      <p className="dialog-foot">
        <Button onClick={onDismiss}>Dismiss all</Button>
        <span className="soft">Removed pages stay restorable by Undo and in the history.</span>
      </p>
    </Dialog>
  );
}
