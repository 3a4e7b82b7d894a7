import type { Schemas } from "../../shared/api/client";
import type { Upload } from "../../shared/sending/UploadQueue";
import type { Arrangement } from "../../folio/arrangement";
import type { Actions } from "./useActions";

/** What both shapes of the board are made of: the field of columns and rows, and a page at a time. */
export interface Parts {
  board: Schemas["BoardOut"];
  pages: Schemas["PageOut"][];
  coming: readonly Upload[];
  arrangement: Arrangement;
  actions: Actions;
  /** The index of the chosen page. */
  at: number;
  /** Whether pages may still come and go. */
  open: boolean;
  /** Whether order, places and corrections may still change. */
  placing: boolean;
  add: (files: File[]) => void;
  onOrder: () => void;
}
