/**
 * Asks again for what a lost network kept from coming. React remembers a failed screen for good, so it must not see one;
 * browsers do so too (HTML, module map), so it is asked for by another address then.
 */
export function patiently<T>(load: () => Promise<T>, tries = 30, everyMs = 2000, importFrom = imported<T>): () => Promise<T> {
  return async () => {
    let address: string | undefined;
    for (let left = tries; left > 1; left--) {
      try {
        return await (address ? importFrom(`${address}?again=${left}`) : load());
      } catch (error) {
        address ??= addressIn(error);
        await new Promise((done) => setTimeout(done, everyMs));
      }
    }
    return load();
  };
}

function imported<T>(address: string): Promise<T> {
  return import(/* @vite-ignore */ address) as Promise<T>;
}

/** Chromium and Firefox name what could not be fetched; where it is not named, the same is tried again. */
function addressIn(error: unknown): string | undefined {
  return error instanceof Error ? /module: (https?:\/\/[^\s?]+\.js)$/.exec(error.message)?.[1] : undefined;
}
