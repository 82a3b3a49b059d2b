{% load static %}// What works at a post without network: the last pages, marked with their age, and presses kept
// until they can be sent.
importScripts(
  "{% static 'design/vendor/workbox/workbox-core.prod.js' %}",
  "{% static 'design/vendor/workbox/workbox-expiration.prod.js' %}",
  "{% static 'design/vendor/workbox/workbox-routing.prod.js' %}",
  "{% static 'design/vendor/workbox/workbox-strategies.prod.js' %}",
  "{% static 'design/vendor/workbox/workbox-precaching.prod.js' %}",
  "{% static 'design/vendor/workbox/workbox-background-sync.prod.js' %}");

const { core, expiration, routing, strategies, precaching, backgroundSync } = workbox;
core.skipWaiting();
core.clientsClaim();

// The look: files whose names change with what is in them need no revision.
precaching.precacheAndRoute([
  {% for file in files %}{ url: "{{ file }}", revision: "{{ revision }}" },
  {% endfor %}{ url: "{% url 'offline' %}", revision: "{{ revision }}" },
]);

const KEPT = /^\/(now|order|steps|setups|log|hours)\//;
const LEAVES = /^\/account\//;
// A page answered from here says so, and with it its age, on a silent network as without any.
const told = {
  cachedResponseWillBeUsed: async ({ cachedResponse: kept }) => {
    if (!kept?.headers.get("Content-Type")?.startsWith("text/html")) return kept; // a card as PDF
    const text = (await kept.text()).replace("<body ", "<body data-old ");
    return new Response(text, { status: kept.status, headers: kept.headers });
  },
};
const plugins = [
  new expiration.ExpirationPlugin({ maxEntries: 60, maxAgeSeconds: 7 * 86400 }), told,
];
const pages = new strategies.NetworkFirst({ cacheName: "pages", networkTimeoutSeconds: 4, plugins });
// What was just changed is never shown as it was before, however long the network takes over it;
// what a page says as it is left (keepalive) changes nothing.
const JUST_CHANGED_MS = 60_000;
const changed = new strategies.NetworkFirst({ cacheName: "pages", plugins });
let changedAt = -Infinity;
self.addEventListener("fetch", ({ request }) => {
  if (request.method !== "GET" && !request.keepalive) changedAt = Date.now();
});
const answering = () => (Date.now() - changedAt < JUST_CHANGED_MS ? changed : pages);

routing.registerRoute(
  ({ request, url }) => request.mode === "navigate" && url.origin === location.origin,
  async (options) => {
    const { url, request } = options;
    if (LEAVES.test(url.pathname)) await caches.delete("pages");
    try {
      return KEPT.test(url.pathname) ? await answering().handle(options) : await fetch(request);
    } catch {
      return (await precaching.matchPrecache("{% url 'offline' %}")) ?? Response.error();
    }
  });

// What Now finds after every press: the newest there is.
routing.registerRoute(
  ({ url }) => /^\/now\/\d+\/table\/$/.test(url.pathname),
  new strategies.NetworkFirst({ cacheName: "pages", plugins: [plugins[0]] }));

// Readings and steps: sent at once, else kept and sent in order when the network is back. Each
// carries a token of its own or says what is to be, so that one sent twice counts once.
// One sending at a time: two would overtake each other.
let sending = null;
const send = () => (sending ??= queue.replayRequests().finally(() => { sending = null; }));
const queue = new backgroundSync.Queue("presses", { maxRetentionTime: 7 * 24 * 60, onSync: send });
const QUEUED = /^\/(log\/\d+\/add|steps\/list\/\d+\/go)\/$/;

routing.registerRoute(
  ({ url }) => QUEUED.test(url.pathname),
  async ({ request, url }) => {
    const copy = request.clone();
    try {
      return await fetch(request);
    } catch {
      await queue.pushRequest({ request: copy });
      if (request.headers.get("HX-Request")) {
        return new Response(null, { status: 204, headers: { "HX-Trigger": "kept-here" } });
      }
      return Response.redirect(`${url.pathname.split("/").slice(0, 3).join("/")}/?kept=1`, 303);
    }
  },
  "POST");

self.addEventListener("message", (event) => {
  if (event.data === "leave") event.waitUntil(caches.delete("pages"));
  if (event.data === "send") event.waitUntil(send().catch(() => {}));
});
