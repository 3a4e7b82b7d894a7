/**
 * The application without a network: its shell, the screens' code, the pictures seen before, and the board as it last was.
 * Nothing that changes anything passes through here; files on their way are the page's own business.
 *
 * The server fills in the list when it hands this file out (inkedfolio/views.py).
 */
const ASSETS = ["__ASSETS__"];
const SHELL = "shell-__VERSION__";
const [DATA, PICTURES, SHARED] = ["data", "pictures", "shared"];
const MATHS_FIELD = "/maths-field";
const PATIENCE_MS = 5000;

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(SHELL).then((cache) => cache.addAll(["/", ...ASSETS])));
});

self.addEventListener("activate", (event) => {
  event.waitUntil(
    (async () => {
      for (const name of await caches.keys()) if (name.startsWith("shell-") && name !== SHELL) await caches.delete(name);
      await self.clients.claim();
    })(),
  );
});

self.addEventListener("message", (event) => {
  if (event.data === "forget") event.waitUntil(forget());
  if (event.data === "keep the maths field") event.waitUntil(keepMathsField());
});

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const { origin, pathname } = new URL(request.url);
  if (request.method === "POST" && origin === self.location.origin && pathname === "/shared") {
    event.respondWith(takeShared(request));
    return;
  }
  if (request.method !== "GET" || origin !== self.location.origin) return;
  if (request.mode === "navigate" && pathname === MATHS_FIELD) event.respondWith(shell(request, MATHS_FIELD));
  else if (request.mode === "navigate" && !/^\/(api|admin|static|sign-in)\//.test(pathname)) event.respondWith(shell(request));
  else if (pathname.startsWith("/static/app/")) event.respondWith(once(SHELL, request));
  else if (/^\/api\/folios\/\d+\/images\//.test(pathname)) event.respondWith(once(PICTURES, request));
  else if (pathname === "/api/me" || /^\/api\/folios\/\d+$/.test(pathname)) event.respondWith(lastKnown(request));
});

/**
 * Files from the share menu of the device (W3C Web App Manifest, share_target): kept in this browser until the screen that
 * is opened now has asked for which board they are.
 */
async function takeShared(request) {
  const kept = await caches.open(SHARED);
  const files = (await request.formData()).getAll("files").filter((one) => one instanceof File);
  const stamp = Date.now();
  for (const [at, file] of files.entries()) {
    const headers = { "Content-Type": file.type, "X-File-Name": encodeURIComponent(file.name) };
    await kept.put(`/shared/${stamp}-${String(at).padStart(3, "0")}`, new Response(file, { headers }));
  }
  return Response.redirect(files.length > 0 ? "/shared" : "/shared?none", 303);
}

/** The page from the server; where that cannot be reached or is in trouble, as it last was. */
async function shell(request, kept = "/") {
  try {
    const fresh = await withPatience(fetch(request));
    if (fresh.status < 500) return fresh;
  } catch {
    // no network
  }
  return (await caches.match(kept, { cacheName: SHELL })) ?? fetch(request);
}

/** The field's page and its code: large, and only wanted where maths is typed. The page comes last: with it all is there. */
async function keepMathsField() {
  const cache = await caches.open(SHELL);
  if (await cache.match(MATHS_FIELD)) return;
  const page = await fetch(MATHS_FIELD);
  if (!page.ok) return;
  const needed = [...(await page.clone().text()).matchAll(/(?:src|href)="(\/static\/app\/[^"]+)"/g)].map(([, address]) => address);
  await cache.addAll(needed);
  await cache.put(MATHS_FIELD, page);
}

/** What is named by its hash never changes. */
async function once(cacheName, request) {
  const kept = await caches.match(request);
  if (kept) return kept;
  const fresh = await fetch(request);
  if (fresh.ok) (await caches.open(cacheName)).put(request, fresh.clone()).catch(() => {});
  return fresh;
}

/** From the server, and from what it last said where it cannot be reached; that carries when it was said. */
async function lastKnown(request) {
  const cache = await caches.open(DATA);
  const fresh = await fetch(request).catch((error) => error);
  if (!(fresh instanceof Response) || fresh.status >= 500) {
    const kept = await cache.match(request);
    if (kept) return kept;
    if (fresh instanceof Response) return fresh;
    throw fresh;
  }
  if (fresh.ok) {
    if (request.url.endsWith("/api/me")) await forgetOthers(cache, request, fresh.clone());
    const headers = new Headers(fresh.headers);
    headers.set("X-Kept-At", new Date().toISOString());
    const body = await fresh.clone().blob();
    await cache.put(request, new Response(body, { headers })).catch(() => {});
  }
  return fresh;
}

/** Somebody else is signed in: what was kept is not theirs. */
async function forgetOthers(cache, request, fresh) {
  const kept = await cache.match(request);
  if (kept && (await kept.text()) !== (await fresh.text())) await forget();
}

async function forget() {
  await Promise.all([DATA, PICTURES, SHARED].map((name) => caches.delete(name)));
}

function withPatience(answer) {
  return Promise.race([answer, new Promise((_, give) => setTimeout(() => give(new Error("too slow")), PATIENCE_MS))]);
}
