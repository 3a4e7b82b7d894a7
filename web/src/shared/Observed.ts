/** Something outside React that its components watch (useSyncExternalStore). */
export class Observed {
  private readonly watchers = new Set<() => void>();

  readonly subscribe = (watcher: () => void) => {
    this.watchers.add(watcher);
    return () => {
      this.watchers.delete(watcher);
    };
  };

  protected tell() {
    this.watchers.forEach((watcher) => watcher());
  }
}
