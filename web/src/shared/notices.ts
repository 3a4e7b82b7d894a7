import { Observed } from "./Observed";

/** Something to be told beside what is being done. A later one with the same key takes its place. */
export interface Notice {
  key: string;
  kind: "info" | "warning";
  title: string;
  description: string;
  /** How long it stands; 0: until it is closed. */
  seconds: number;
  button?: { words: string; press: () => void };
}

class Notices extends Observed {
  private waiting: readonly Notice[] = [];
  readonly toTell = () => this.waiting;

  add(notice: Notice) {
    this.waiting = [...this.waiting, notice];
    this.tell();
  }

  told(notices: readonly Notice[]) {
    this.waiting = this.waiting.filter((one) => !notices.includes(one));
    this.tell();
  }
}

export const notices = new Notices();
