/** Asks again for what a lost network kept from coming. React remembers a failed screen for good, so it must not see one. */
export function patiently<T>(load: () => Promise<T>, tries = 30, everyMs = 2000): () => Promise<T> {
  return async () => {
    for (let left = tries; left > 1; left--) {
      try {
        return await load();
      } catch {
        await new Promise((done) => setTimeout(done, everyMs));
      }
    }
    return load();
  };
}
