{% load static %}// What works at a post without network: the last pages, marked with their age, and
// presses kept until they can be sent.
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

const KEPT = /^\/((now|order|steps|setups|log|hours)\/|rigs\/\d+\/plate\/|supplies\/\d+\/)/;
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
const pages = new strategies.NetworkFirst({
  cacheName: "pages", networkTimeoutSeconds: 4, plugins,
});
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
// carries a token of its own or says what is to be, so that one sent twice counts once. One leaves
// this device only when the server says that it holds it (X-Stored): an error, a login page and a
// captive portal's page keep it. Each is sent for whoever typed it and nobody else.
const YEAR_MIN = 366 * 24 * 60;
const AGAIN = [401, 408, 425, 429];
const WHO = "/account/who/";
const QUEUED = /^\/(log\/\d+\/add|steps\/list\/\d+\/go)\/$/;
const ours = (answer) => Boolean(answer?.headers.get("X-Request-ID"));
const isKept = (answer) => ours(answer) && answer.headers.get("X-Stored") === "1";
const isRefused = (answer) =>
  ours(answer) && !answer.redirected && answer.status >= 400 && answer.status < 500 &&
  !AGAIN.includes(answer.status);

// Whom the pages of this device were made for last, also after the worker slept.
async function known(who) {
  const notes = await caches.open("notes");
  if (who !== undefined) await notes.put(WHO, new Response(who));
  return (await (await notes.match(WHO))?.text()) ?? "";
}

// The same request as the server likes it: with an answer that says whether it is held, and with
// the token of whoever is signed in now.
async function marked(request, token) {
  const body = await request.formData();
  if (token) body.set("csrfmiddlewaretoken", token);
  const headers = { "X-Queued": "1" };
  return new Request(request.url, { method: "POST", body, headers, credentials: "same-origin" });
}

async function signedIn() {
  const answer = await fetch(WHO, { cache: "no-store", credentials: "same-origin" });
  const told = ours(answer) && answer.status === 200 && !answer.redirected;
  if (!told) throw new Error("nobody answers");
  return answer.json();
}

// The first of the line stays in it until it is held; what is not to be sent now goes behind.
async function deliver() {
  const many = await queue.size();
  if (!many) return;
  const me = await signedIn();
  await known(me.who);
  for (let turn = 0; turn < many; turn += 1) {
    const [first] = await queue.getAll();
    if (!first) return;
    const about = first.metadata ?? {};
    const mine = Boolean(me.who) && (about.who ?? me.who) === me.who;
    if (mine && !about.refused) {
      const answer = await fetch(await marked(first.request, me.token));
      if (isKept(answer)) {
        await queue.shiftRequest();
        continue;
      }
      if (!isRefused(answer)) throw new Error(`not taken: ${answer.status}`);
      about.refused = answer.status;
    }
    const { request } = (await queue.getAll())[0];
    await queue.pushRequest({ request, metadata: about, timestamp: first.timestamp });
    await queue.shiftRequest();
  }
}

// How many wait here, and why, for whoever looks at a page.
async function tell() {
  const who = await known();
  const all = (await queue.getAll()).map((entry) => entry.metadata ?? {});
  const mine = all.filter((about) => (about.who ?? who) === who);
  const news = {
    waiting: mine.filter((about) => !about.refused).length,
    refused: mine.filter((about) => about.refused).length,
    others: all.length - mine.length,
  };
  for (const page of await self.clients.matchAll()) page.postMessage({ queued: news });
}

// One sending at a time: two would overtake each other.
let sending = null;
const send = () =>
  (sending ??= deliver().finally(() => {
    sending = null;
    return tell();
  }));
const queue = new backgroundSync.Queue("presses", { maxRetentionTime: YEAR_MIN, onSync: send });

async function keep(request) {
  await queue.pushRequest({ request, metadata: { who: await known() } });
  await tell();
}

// Whether something of whoever is here still waits to be sent: what comes now stands behind it.
async function waiting() {
  const who = await known();
  const all = (await queue.getAll()).map((entry) => entry.metadata ?? {});
  return all.some((about) => !about.refused && (about.who ?? who) === who);
}

routing.registerRoute(
  ({ url }) => QUEUED.test(url.pathname),
  async ({ request, url }) => {
    const copy = request.clone();
    let answer = null;
    const behind = await waiting();
    try {
      if (!behind) answer = await fetch(await marked(request.clone()));
    } catch {
      // no network: it waits here
    }
    if (isKept(answer)) {
      const next = answer.headers.get("X-Next");
      if (!next) return answer; // it says something of what was sent
      return request.headers.get("HX-Request") ? fetch(next) : Response.redirect(next, 303);
    }
    if (isRefused(answer)) return answer;
    await keep(copy);
    if (behind) Promise.resolve(sending).catch(() => {}).then(send).catch(() => {});
    if (request.headers.get("HX-Request")) {
      return new Response(null, { status: 204, headers: { "HX-Trigger": "kept-here" } });
    }
    return Response.redirect(`${url.pathname.split("/").slice(0, 3).join("/")}/?kept=1`, 303);
  },
  "POST");

self.addEventListener("message", (event) => {
  if (event.data === "leave") {
    event.waitUntil(Promise.all([caches.delete("pages"), caches.delete("notes")]));
  }
  if (event.data === "send") event.waitUntil(send().catch(() => {}));
  if (event.data === "claim") event.waitUntil(self.clients.claim());
  if (event.data === "tell") event.waitUntil(tell());
  if (event.data?.who) event.waitUntil(known(event.data.who).then(send).catch(() => {}));
});
