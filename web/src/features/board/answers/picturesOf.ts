import { useCallback, useEffect, useRef, useState } from "react";
import type { Schemas } from "../../../shared/api/client";
import type { Upload, UploadQueue } from "../../../shared/sending/UploadQueue";

/** For which question a chosen file is a picture of the working. */
type Pictures = ReadonlyMap<File, string>;

/** Adds pictures of one question's working; they are placed on it as soon as they are on the board. */
export function usePicturesOf(queue: UploadQueue, limits: Schemas["LimitsOut"]): [Pictures, (files: File[], question: string) => void] {
  const [pictures, setPictures] = useState<Pictures>(new Map());
  const add = useCallback(
    (files: File[], question: string) => {
      setPictures((now) => new Map([...now, ...files.map((file) => [file, question] as const)]));
      void queue.add(files, limits);
    },
    [queue, limits],
  );
  return [pictures, add];
}

export function usePlacedPictures(
  pictures: Pictures,
  uploads: readonly Upload[],
  ids: readonly number[],
  place: (questions: string[], pages: number[], on: boolean) => void,
) {
  const pages = useRef(new Map<number, string>());
  useEffect(() => {
    for (const { file, pageId } of uploads) {
      const question = pictures.get(file);
      if (question !== undefined && pageId !== null && !pages.current.has(pageId)) pages.current.set(pageId, question);
    }
    const [page, question] = [...pages.current].find(([id, one]) => one !== "" && ids.includes(id)) ?? [];
    if (page === undefined || question === undefined) return;
    pages.current.set(page, ""); // once
    place([question], [page], true);
  });
}
