const SHARED = "shared"; // as the service worker calls it (public/sw.js)

/** What the service worker kept of what was shared, in the order it came. */
export async function sharedFiles(): Promise<File[]> {
  if (!("caches" in window)) return [];
  const kept = await caches.open(SHARED);
  const requests = [...(await kept.keys())].sort((a, b) => a.url.localeCompare(b.url));
  return Promise.all(requests.map(async (request) => fileOf((await kept.match(request)) as Response)));
}

export async function forgetShared(): Promise<void> {
  if ("caches" in window) await caches.delete(SHARED);
}

async function fileOf(kept: Response): Promise<File> {
  const name = decodeURIComponent(kept.headers.get("X-File-Name") ?? "") || "shared";
  return new File([await kept.blob()], name, { type: kept.headers.get("Content-Type") ?? "" });
}
