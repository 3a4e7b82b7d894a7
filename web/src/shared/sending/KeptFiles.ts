import { type DBSchema, type IDBPDatabase, openDB } from "idb";

/** A chosen file as the browser keeps it until the server has acknowledged its hash. */
export interface Kept {
  key: string;
  folioId: number;
  /** The mail address of the student whose folio it is: nobody else's sign-in sends it. */
  owner: string;
  /** The page of this browser (a tab's life) that sends it. */
  tab: string;
  file: File;
  /** Kept apart: not every browser keeps a stored file's name. */
  name: string;
  batch: string;
  number: number;
  insteadOf: number | null;
  /** When it was chosen, by this device's clock. */
  chosenAt: number;
  /** Seconds between the picture before it and this one, where the camera's times tell; else 0. */
  gapSeconds: number;
  sha256: string;
  /** Where a file in pieces goes on. */
  uploadUrl: string | null;
  /** When the server noted its pledge. */
  promised: string | null;
  /** Why the server will not take it; it is kept all the same, until the student lets go of it. */
  refusal?: string;
}

interface Files extends DBSchema {
  files: { key: string; value: Kept; indexes: { owner: string } };
}

/** What keeps files over a reload, a crash or a closed lid. */
export interface Keeper {
  put(kept: Kept): Promise<void>;
  remove(key: string): Promise<void>;
  of(owner: string): Promise<Kept[]>;
}

/** The browser's own database. Where it refuses (a private window, no room), files live as long as the page is open. */
export class BrowserKeeper implements Keeper {
  private database: Promise<IDBPDatabase<Files>> | null = null;

  private open() {
    this.database ??= openDB<Files>("inked-folio", 1, {
      upgrade: (fresh) => fresh.createObjectStore("files", { keyPath: "key" }).createIndex("owner", "owner"),
      terminated: () => (this.database = null),
    });
    return this.database;
  }

  async put(kept: Kept) {
    await (await this.open()).put("files", kept);
  }

  async remove(key: string) {
    await (await this.open()).delete("files", key);
  }

  async of(owner: string) {
    const all = await (await this.open()).getAllFromIndex("files", "owner", owner);
    const files = all.map((kept) => ({ ...kept, file: new File([kept.file], kept.name, { type: kept.file.type }) }));
    return files.sort((a, b) => a.chosenAt - b.chosenAt || a.number - b.number);
  }
}
