// Keeps the pages of Vatten on the device, so that a reload works with the server gone. Only the built
// front end is kept; nothing of the API passes through here.
const SHELL = "vatten-shell";

async function keepAll() {
  const cache = await caches.open(SHELL);
  const page = await fetch("/", { cache: "no-cache" });
  const list = await fetch("/assets.json", { cache: "no-cache" });
  if (!page.ok || !list.ok) return;
  const wanted = new Set(await list.json());
  for (const address of wanted) {
    if (!(await cache.match(address))) await cache.add(address);
  }
  await cache.put("/", page);
  for (const old of await cache.keys()) {
    const { pathname } = new URL(old.url);
    if (pathname.startsWith("/assets/") && !wanted.has(pathname)) await cache.delete(old);
  }
}

/** A server that does not answer a page within this is not there, ms. */
const ANSWERS_WITHIN = 4_000;

/** The page as the server has it; as it was kept when no server answers, or only a proxy that has none. */
async function page(event) {
  const kept = await caches.match("/");
  const late = kept && new Promise((done) => setTimeout(() => done(kept), ANSWERS_WITHIN));
  const asked = fetch(event.request).then(
    (answer) => {
      if (answer.status >= 500) return kept ?? answer;
      event.waitUntil(keepAll().catch(() => undefined));
      return answer;
    },
    () => kept ?? Response.error(),
  );
  return late ? Promise.race([asked, late]) : asked;
}

self.addEventListener("install", (event) => event.waitUntil(keepAll().then(() => self.skipWaiting())));
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== location.origin) return;
  if (url.pathname.startsWith("/api/")) return;
  if (event.request.mode === "navigate") {
    event.respondWith(page(event));
  } else if (url.pathname.startsWith("/assets/")) {
    event.respondWith(caches.match(event.request).then((kept) => kept ?? fetch(event.request)));
  }
});
