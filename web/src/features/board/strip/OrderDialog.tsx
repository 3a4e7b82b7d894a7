import { useState } from "react";
import { OneOf } from "../../../shared/ui/fields";
import { Button } from "../../../shared/ui/Button";
import type { Schemas } from "../../../shared/api/client";
import { type Arrangement, pagesOf, questionsOn } from "../../../folio/arrangement";
import { Dialog } from "../../../shared/ui/Dialog";
import { labelWords } from "../../../folio/labelWords";
import { ordered, type OrderKind } from "../../../folio/ordering";

const KINDS: [OrderKind, string, string][] = [
  ["taken", "by the time they were taken", "by time taken"],
  ["name", "by file name", "by file name"],
  ["questions", "by the questions on them", "by questions"],
  ["reversed", "the other way round", "the other way round"],
];

interface Props {
  pages: Schemas["PageOut"][];
  questions: Schemas["QuestionOut"][];
  arrangement: Arrangement;
  onOrder: (order: readonly number[], how: string) => void;
  onClose: () => void;
}

/** The pages in another order: shown first, then done, undone by Undo. */
export function OrderDialog({ pages, questions, arrangement, onOrder, onClose }: Props) {
  const now = pagesOf(arrangement);
  const orders = new Map(KINDS.map(([kind]) => [kind, ordered(kind, arrangement, pages, questions)]));
  const differs = (kind: OrderKind) => orders.get(kind)?.join() !== now.join();
  const [kind, setKind] = useState<OrderKind>(() => (["taken", "name", "questions"] as const).find(differs) ?? "taken");
  const order = orders.get(kind) ?? now;
  const byId = new Map(pages.map((page) => [page.id, page]));
  const timed = pages.filter((page) => page.taken).length;
  return (
    <Dialog title="Put the pages in order" width={980} onClose={onClose}>
      <div className="order-kinds">
        <OneOf label="Order" value={kind} options={KINDS.map(([value, label]) => ({ value, label }))} onChange={setKind} />
      </div>
      {kind === "taken" && timed < pages.length && (
        <p className="soft">
          {timed === 0 ? "No picture tells when it was taken." : "Pictures that tell no time stay behind the page they follow."}
        </p>
      )}
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- a scrolling region must be reachable by key */}
      <div className="order-scroll" tabIndex={0} role="region" aria-label="The order as it would be">
      <ol className="order-preview">
        {order.map((id, at) => {
          const page = byId.get(id);
          const was = now.indexOf(id) + 1;
          return (
            <li key={id}>
              {page?.preview ? <img src={page.preview} alt="" /> : <i />}
              <strong>{at + 1}</strong>
              <span className={was === at + 1 ? "soft" : ""}>{was === at + 1 ? "stays" : `was ${was}`}</span>
              <br />
              <span className="soft">{labelWords(questionsOn(arrangement, id), questions)}</span>
            </li>
          );
        })}
      </ol>
      </div>
      <p className="dialog-foot">
        <Button
          first
          disabled={!differs(kind)}
          onClick={() => {
            onOrder(order, KINDS.find(([one]) => one === kind)?.[2] ?? "");
            onClose();
          }}
        >
          Put in this order
        </Button>
        <span className="soft">{differs(kind) ? "Undo brings the present order back." : "They lie in this order already."}</span>
      </p>
    </Dialog>
  );
}
