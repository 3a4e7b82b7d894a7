import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import type { Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import type { Upload } from "../../shared/sending/UploadQueue";
import { Trouble } from "../../shared/ui/Trouble";
import { setRemoved } from "./cameraLine";

export type TakenPage = Schemas["TakenPageOut"];

interface Props {
  taken: readonly TakenPage[];
  uploads: readonly Upload[];
  open: boolean;
  secret: string;
  onAgain: (page: TakenPage) => void;
}

/** All that came from this phone and what is on its way from it, the newest first; each can be taken again or away. */
export function Taken({ taken, uploads, open, secret, onAgain }: Props) {
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: ({ page, removed }: { page: number; removed: boolean }) => setRemoved(secret, page, removed),
    onSettled: () => queries.invalidateQueries({ queryKey: queryKeys.camera(secret) }),
  });
  const known = new Set(taken.map((page) => page.page_id));
  const coming = uploads.filter((one) => one.state !== "safe" || (one.pageId !== null && !known.has(one.pageId) && !uploads.some((other) => other.insteadOf === one.pageId)));
  const pictureOf = (page: TakenPage) => uploads.find((one) => one.pageId === page.page_id)?.file;
  if (coming.length + taken.length === 0) return null;
  return (
    <section aria-label="Pictures taken here">
      {remove.error && <Trouble error={remove.error} />}
      <ul className="camera-taken">
        {coming.toReversed().map((one) => (
          <li key={one.key}>
            <Small picture={one.file} />
            <strong>{one.insteadOf === null ? "New" : "Again"}</strong>
            <span className={one.state === "safe" ? "" : "red"}>
              {one.state}
              {one.waitsFor && `, waiting for ${one.waitsFor === "your sign-in" ? "a new link" : one.waitsFor}`}
            </span>
            {one.message && <span>{one.message}</span>}
          </li>
        ))}
        {taken.toReversed().map((page) => (
          <li key={page.page_id} className={page.number === null ? "camera-gone" : ""}>
            <Small picture={pictureOf(page)} />
            <strong>{page.number === null ? "Removed" : `Page ${page.number}`}</strong>
            {page.number === null ? (
              <button type="button" className="plain" disabled={!open} onClick={() => remove.mutate({ page: page.page_id, removed: false })}>
                Put it back
              </button>
            ) : (
              <>
                <button type="button" className="plain" disabled={!open} onClick={() => onAgain(page)}>
                  Take again<span className="unseen"> page {page.number}</span>
                </button>
                <button
                  type="button"
                  className="plain"
                  disabled={!open}
                  aria-label={`Remove page ${page.number}`}
                  onClick={() => remove.mutate({ page: page.page_id, removed: true })}
                >
                  Remove
                </button>
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Only this phone has the picture itself; after a reload there is its place. */
function Small({ picture }: { picture: File | undefined }) {
  const address = useMemo(() => picture && URL.createObjectURL(picture), [picture]);
  useEffect(() => () => (address ? URL.revokeObjectURL(address) : undefined), [address]);
  return address ? <img src={address} alt="" /> : <span className="camera-unseen" aria-hidden="true" />;
}
