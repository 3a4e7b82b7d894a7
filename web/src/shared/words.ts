/** "1 page", "6 pages" */
export function count(number: number, one: string, many = `${one}s`): string {
  return `${number} ${number === 1 ? one : many}`;
}

/** "a, b and c" */
export function list(words: readonly string[]): string {
  const [before, last] = [words.slice(0, -1), words.at(-1) ?? ""];
  return before.length > 0 ? `${before.join(", ")} and ${last}` : last;
}

export function size(bytes: number): string {
  return bytes < 1_000_000 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`;
}
