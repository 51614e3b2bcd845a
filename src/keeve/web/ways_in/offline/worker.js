"use strict";
// Keeps the run pages of this phone, so that they open without a network. Everything else goes to the server as ever.

const VERSION = "__VERSION__";
const SHELL = __SHELL__;
const FILES = `keeve-files-${VERSION}`;
const RUNS = "keeve-runs";
const MOST_RUNS = 12;
const PATIENCE_MS = 2500;
const RUN = /^\/jobs\/[^/]+\/mixer$/;

self.addEventListener("install", (event) => {
  const fresh = SHELL.map((address) => new Request(address, { cache: "reload" }));
  // What is sent goes straight to the server, where a browser can be told so: to wake this worker for it costs milliseconds.
  if (event.addRoutes) event.addRoutes(["POST", "PUT", "DELETE"].map((method) => ({ condition: { requestMethod: method }, source: "network" }))).catch(() => {});
  event.waitUntil(caches.open(FILES).then((files) => files.addAll([...fresh, new Request("/offline", { cache: "reload" })])).then(() => self.skipWaiting()));
});

// A page that was kept asks for the files of its day: with new files it is kept anew, before the old ones go.
async function renew() {
  const runs = await (await caches.open(RUNS)).keys();
  const kept = await Promise.all(runs.map((one) => keep(new URL(one.url).pathname).then(() => true, () => false)));
  if (kept.includes(false)) return; // no network just now: the old files stay until the next change
  const old = (await caches.keys()).filter((name) => name.startsWith("keeve-files-") && name !== FILES);
  await Promise.all(old.map((name) => caches.delete(name)));
}

self.addEventListener("activate", (event) => { event.waitUntil(renew().then(() => self.clients.claim())); });

// The page's clock is set by the moment it was written: one that was kept for hours must not tell it.
async function keep(path) {
  const answer = await fetch(path, { headers: { accept: "text/html" } });
  if (!answer.ok || answer.redirected) return;
  const text = (await answer.text()).replace(/data-now="\d+"/, 'data-now=""');
  const headers = new Headers(answer.headers);
  for (const name of ["content-encoding", "content-length"]) headers.delete(name);
  const runs = await caches.open(RUNS);
  await runs.delete(path);
  await runs.put(path, new Response(text, { status: 200, headers }));
  const kept = await runs.keys();
  await Promise.all(kept.slice(0, Math.max(0, kept.length - MOST_RUNS)).map((one) => runs.delete(one)));
}

self.addEventListener("message", (event) => {
  const path = event.data && event.data.keep;
  if (typeof path === "string" && RUN.test(path)) event.waitUntil(keep(path).then(() => event.source && event.source.postMessage({ kept: path }), () => {}));
});

// A page that a link opened is kept no longer than the link is good: after that the server is asked, however long it takes.
const pastItsLink = (kept) => Number(kept.headers.get("x-keeve-until") || Infinity) < Date.now();

async function page(event, path) {
  const cut = new AbortController();
  const runs = await caches.open(RUNS);
  const found = RUN.test(path) ? await runs.match(path) : null;
  const kept = found && !pastItsLink(found) ? found : null;
  // What was not kept is waited for; what was is not waited for long.
  const timer = kept ? setTimeout(() => cut.abort(), PATIENCE_MS) : 0;
  try {
    const answer = await fetch(event.request, { signal: cut.signal });
    if (kept && answer.status >= 500) return kept;
    // Its link was taken back or has run out; or another yard is at this address now.
    if (found && (answer.status === 403 || answer.status === 404)) await runs.delete(path);
    return answer;
  } catch {
    return kept || (await (await caches.open(FILES)).match("/offline")) || Response.error();
  } finally {
    clearTimeout(timer);
  }
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) return;
  if (request.mode === "navigate") {
    event.respondWith(page(event, url.pathname));
  } else if (url.pathname.startsWith("/static/")) {
    event.respondWith(caches.match(request).then((kept) => kept || fetch(request)));
  }
});

self.addEventListener("notificationclick", (event) => {
  event.notification.close();
  const open = (pages) => (pages.length ? pages[0].focus() : self.clients.openWindow("/"));
  event.waitUntil(self.clients.matchAll({ type: "window" }).then(open));
});
