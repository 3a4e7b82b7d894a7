const KB = 1024;
const SECONDS_A_PIECE = 4;
const [LEAST_PIECE, MOST_PIECE] = [128 * KB, 4096 * KB];
const FAST_BYTES_PER_SECOND = 400 * KB;
const [FIRST_WAIT_MS, MOST_WAIT_MS] = [1000, 15_000];

/**
 * How the line behaves: how much is sent at once, in pieces of which size, and how long to wait after a failure.
 *
 * A piece takes about four seconds, so that a break costs no more than that. Side by side only on a line that proved fast.
 */
export class LinkPace {
  private bytesPerSecond = 128 * KB;
  private failures = 0;

  delivered(bytes: number, seconds: number) {
    this.failures = 0;
    if (bytes < 32 * KB) return; // tells of the line's delay, not of its width
    const seen = bytes / Math.max(seconds, 0.05);
    this.bytesPerSecond = 0.5 * this.bytesPerSecond + 0.5 * seen;
  }

  failed() {
    this.failures += 1;
    this.bytesPerSecond = Math.max(this.bytesPerSecond / 2, 8 * KB);
  }

  get sideBySide(): number {
    return this.failures === 0 && this.bytesPerSecond >= FAST_BYTES_PER_SECOND ? 3 : 1;
  }

  get pieceBytes(): number {
    return Math.round(Math.min(MOST_PIECE, Math.max(LEAST_PIECE, this.bytesPerSecond * SECONDS_A_PIECE)));
  }

  /** Exponential back-off with jitter, so that a hall full of phones does not come back all at once. */
  waitMs(random: number): number {
    const most = Math.min(MOST_WAIT_MS, FIRST_WAIT_MS * 2 ** Math.max(0, this.failures - 1));
    return most * (0.5 + 0.5 * random);
  }

  secondsFor(bytes: number): number {
    return bytes / this.bytesPerSecond;
  }

  get weak(): boolean {
    return this.failures > 0 || this.bytesPerSecond < 64 * KB;
  }
}
