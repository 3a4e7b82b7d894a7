/** Which lives of this browser's tabs are going on, by Web Locks (W3C): a lock is let go when its tab ends, however it ends. */

const PREFIX = "inked-folio-tab-";

export const thisTab: string = crypto.randomUUID();

/** Hold this tab's lock for as long as the page lives. */
export function beAlive() {
  if (typeof navigator === "undefined" || !("locks" in navigator)) return;
  void navigator.locks.request(PREFIX + thisTab, () => new Promise<never>(() => {}));
}

/** The tabs that are alive; this one always is. */
export async function livingTabs(): Promise<Set<string>> {
  const alive = new Set<string>([thisTab]);
  if (typeof navigator === "undefined" || !("locks" in navigator)) return alive;
  const { held = [] } = await navigator.locks.query();
  for (const lock of held) if (lock.name?.startsWith(PREFIX)) alive.add(lock.name.slice(PREFIX.length));
  return alive;
}

/** Only one tab at a time takes over what a tab that ended left behind. */
export async function oneAtATime<T>(act: () => Promise<T>): Promise<T> {
  if (typeof navigator === "undefined" || !("locks" in navigator)) return act();
  return (await navigator.locks.request("inked-folio-taking-over", act)) as T;
}
