import { BrowserKeeper, type Keeper } from "./KeptFiles";
import { beAlive, livingTabs, oneAtATime, thisTab } from "./tabs";
import { type Line, UploadQueue } from "./UploadQueue";

const keeper: Keeper = new BrowserKeeper();
const queues = new Map<string, UploadQueue>();
const LOOK_AGAIN_MS = 10_000;
let looking: ReturnType<typeof setInterval> | undefined;

export function uploadQueue(folioId: number, owner: string, line: Partial<Line> = {}): UploadQueue {
  const name = `${owner} ${folioId}`;
  const queue = queues.get(name) ?? new UploadQueue(folioId, owner, keeper, line);
  queues.set(name, queue);
  return queue;
}

/** In whose name a phone keeps the pictures it takes for a folio by a link. */
export function cameraOf(folioId: number): string {
  return `camera of folio ${folioId}`;
}

/** The queue of such a phone. */
export function cameraQueue(folioId: number, line: Partial<Line>): UploadQueue {
  return uploadQueue(folioId, cameraOf(folioId), line);
}

/** What this browser still keeps of somebody's files, whichever folio they are for. */
export async function keptFor(owner: string) {
  return keeper.of(owner);
}

/** Let go of all of it: what the server does not have is lost. */
export async function forgetFilesOf(owner: string) {
  for (const kept of await keeper.of(owner)) {
    queues.get(`${owner} ${kept.folioId}`)?.dismiss(kept.key);
    await keeper.remove(kept.key);
  }
}

/** Somebody signed in: what an earlier life of this browser kept for them goes on, also what a tab leaves behind later. */
export function goOnFor(owner: string) {
  beAlive();
  clearInterval(looking);
  const look = () => void takeUpFor(owner).catch(() => {}); // a browser that keeps nothing has nothing to go on with
  look();
  looking = setInterval(look, LOOK_AGAIN_MS);
  void navigator.storage?.persist?.();
}

async function takeUpFor(owner: string) {
  const kept = await keeper.of(owner);
  if (kept.every((one) => one.tab === thisTab && queues.has(`${owner} ${one.folioId}`))) return;
  await oneAtATime(async () => {
    const alive = await livingTabs();
    const left = (await keeper.of(owner)).filter((one) => !alive.has(one.tab));
    for (const one of left) await keeper.put({ ...one, tab: thisTab });
    for (const folioId of new Set(left.map((one) => one.folioId)))
      uploadQueue(folioId, owner).takeUp(left.filter((one) => one.folioId === folioId));
  });
}
