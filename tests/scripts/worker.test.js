import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { runInNewContext } from "node:vm";

const TEMPLATE = new URL("../../web/design/templates/design/sw.js", import.meta.url);
const SCRIPT = readFileSync(TEMPLATE, "utf8").replace(/{[%{].*?[%}]}/g, "");

// The worker on its own: what it listens to, how it answers pages, and with which strategy.
function worker({ fetch = async () => new Response(null), line = [] } = {}) {
  const heard = {};
  const routes = [];
  const made = [];
  const told = [];
  const notes = new Map();
  let now = 1_000_000;
  let claimed = 0;
  class Queue {
    size = async () => line.length;
    getAll = async () => line.map((entry) => ({ ...entry, request: entry.request.clone() }));
    shiftRequest = async () => line.shift();
    pushRequest = async (entry) => line.push(entry);
  }
  const cache = {
    put: async (key, value) => notes.set(key, await value.text()),
    match: async (key) => (notes.has(key) ? new Response(notes.get(key)) : undefined),
  };
  class NetworkFirst {
    constructor(asked) {
      Object.assign(this, asked);
      made.push(this);
    }
    handle = async () => this;
  }
  runInNewContext(SCRIPT, {
    importScripts: () => {},
    Response: class extends Response {
      static redirect = (url, status) =>
        Response.redirect(new URL(url, "http://site.test"), status);
    },
    Request: class extends Request {
      constructor(url, options) {
        super(new URL(url, "http://site.test"), options);
      }
    },
    URL,
    fetch: async (asked) =>
      fetch(typeof asked === "string" ? new Request(`http://site.test${asked}`) : asked),
    caches: { open: async () => cache, delete: async () => notes.clear() },
    Date: { now: () => now },
    location: { origin: "http://site.test" },
    self: {
      addEventListener: (name, act) => (heard[name] = act),
      clients: {
        matchAll: async () => [{ postMessage: (news) => told.push({ ...news.queued }) }],
        claim: async () => (claimed += 1),
      },
    },
    workbox: {
      core: { skipWaiting() {}, clientsClaim() {} },
      expiration: { ExpirationPlugin: class {} },
      routing: { registerRoute: (matches, answer) => routes.push({ matches, answer }) },
      strategies: { NetworkFirst },
      precaching: { precacheAndRoute() {} },
      backgroundSync: { Queue },
    },
  });
  const url = new URL("http://site.test/log/7/");
  return {
    made,
    later: (ms) => (now += ms),
    ask: (method, keepalive = false) => heard.fetch({ request: { method, keepalive } }),
    line,
    told,
    claimed: () => claimed,
    say: async (data) => {
      let waits = Promise.resolve();
      heard.message({ data, waitUntil: (work) => (waits = work) });
      await waits;
    },
    post: (fields, headers = {}) => {
      const body = new URLSearchParams(fields);
      const request = new Request("http://site.test/log/7/add/", { method: "POST", body, headers });
      return routes.at(-1).answer({ request, url: new URL(request.url) });
    },
    page: () => routes[0].answer({ url, request: { mode: "navigate" } }),
  };
}

test("a silent network is waited for four seconds, after a change without end", async () => {
  const one = worker();
  assert.equal((await one.page()).networkTimeoutSeconds, 4);
  one.ask("GET");
  one.ask("POST", true);
  assert.equal((await one.page()).networkTimeoutSeconds, 4);
  one.ask("POST");
  assert.equal((await one.page()).networkTimeoutSeconds, undefined);
  assert.equal((await one.page()).cacheName, "pages");
  one.later(61_000);
  assert.equal((await one.page()).networkTimeoutSeconds, 4);
});

test("a page that asks is claimed", async () => {
  const one = worker();
  await one.say("claim");
  assert.equal(one.claimed(), 1);
});

test("a page kept on the device is marked as old", async () => {
  const [told] = worker().made[0].plugins.filter((plugin) => plugin.cachedResponseWillBeUsed);
  const kept = new Response('<body data-made="7">', {
    headers: { "X-A": "b", "Content-Type": "text/html; charset=utf-8" },
  });
  const used = await told.cachedResponseWillBeUsed({ cachedResponse: kept });
  assert.equal(await used.text(), '<body data-old data-made="7">');
  assert.equal(used.headers.get("X-A"), "b");
  assert.ok(!(await told.cachedResponseWillBeUsed({ cachedResponse: undefined })));
  const card = new Response("%PDF", { headers: { "Content-Type": "application/pdf" } });
  assert.equal(await told.cachedResponseWillBeUsed({ cachedResponse: card }), card);
});

// What the server answers: ours, with its id, or a page of somebody else's.
const ours = (status, headers = {}, body = null) =>
  new Response(status === 204 ? null : body, {
    status,
    headers: { "X-Request-ID": "r", ...headers },
  });
const asWho = (who, then) => async (request) =>
  request.url.endsWith("/account/who/")
    ? ours(200, { "Content-Type": "application/json" }, JSON.stringify({ who, token: "t2" }))
    : then(request);
const held = (next) => ours(204, { "X-Stored": "1", "X-Next": next });
const dead = async () => {
  throw new TypeError("no network");
};

test("what is held goes on to its next page and waits nowhere", async () => {
  const one = worker({ fetch: async () => held("http://site.test/log/7/") });
  const answer = await one.post({ amps: "9" });
  assert.equal(answer.status, 303);
  assert.equal(answer.headers.get("Location"), "http://site.test/log/7/");
  assert.equal(one.line.length, 0);
});

test("what the server refuses in words is shown, and what it says of a reading, too", async () => {
  const refused = worker({ fetch: async () => ours(422, {}, "must be a number") });
  assert.equal(await (await refused.post({ amps: "x" })).text(), "must be a number");
  const judged = worker({ fetch: async () => ours(422, { "X-Stored": "1" }, "Not passed") });
  assert.equal(await (await judged.post({ reading: "90" })).text(), "Not passed");
  assert.equal(refused.line.length + judged.line.length, 0);
});

for (const [words, fetch] of [
  ["no network", dead],
  ["an error", async () => ours(500)],
  ["too much at once", async () => ours(429)],
  ["signed out", async () => ours(401)],
  ["a login page", async () => Object.defineProperty(ours(200), "redirected", { value: true })],
  ["a captive portal", async () => new Response("Welcome to the park's network")],
  ["a portal that says kept", async () => new Response("", { headers: { "X-Stored": "1" } })],
  ["a proxy's error", async () => new Response("Bad gateway", { status: 502 })],
])
  test(`${words} keeps a reading on the device and says so`, async () => {
    const one = worker({ fetch });
    const answer = await one.post({ amps: "9", once: "a" });
    assert.equal(answer.status, 303);
    assert.match(answer.headers.get("Location"), /\?kept=1$/);
    assert.equal(one.line.length, 1);
    assert.equal(one.told.at(-1).waiting, 1);
    const by = await one.post({ amps: "9" }, { "HX-Request": "true" });
    assert.equal(by.headers.get("HX-Trigger"), "kept-here");
  });

// A worker that has kept some readings of somebody's.
async function keeping(who, ...amps) {
  let answers = dead;
  const one = worker({ fetch: (request) => answers(request) });
  await one.say({ who });
  for (const value of amps) await one.post({ amps: value, csrfmiddlewaretoken: "t1" });
  one.answers = (how) => (answers = how);
  return one;
}

test("what waits is sent in order, with the token of now, and leaves when held", async () => {
  const one = await keeping("ann", "1", "2", "3");
  assert.equal(one.line.length, 3);
  const sent = [];
  one.answers(
    asWho("ann", async (request) => {
      assert.equal(request.headers.get("X-Queued"), "1");
      const form = await request.formData();
      assert.equal(form.get("csrfmiddlewaretoken"), "t2");
      sent.push(form.get("amps"));
      return held("/log/7/");
    }),
  );
  await one.say("send");
  assert.deepEqual(sent, ["1", "2", "3"]);
  assert.equal(one.line.length, 0);
  assert.deepEqual(one.told.at(-1), { waiting: 0, refused: 0, others: 0 });
});

test("what comes while others still wait stands behind them", async () => {
  const one = await keeping("ann", "1", "2");
  const sent = [];
  one.answers(
    asWho("ann", async (request) => {
      sent.push((await request.formData()).get("amps"));
      return held("/log/7/");
    }),
  );
  await one.post({ amps: "3", csrfmiddlewaretoken: "t1" });
  for (let turn = 0; turn < 200 && one.line.length; turn += 1) await new Promise(setImmediate);
  assert.deepEqual(sent, ["1", "2", "3"]);
  assert.equal(one.line.length, 0);
});

test("an error stops the sending and nothing is lost or changes its order", async () => {
  const one = await keeping("ann", "1", "2", "3");
  const sent = [];
  const answer = (status) =>
    asWho("ann", async (request) => {
      const amps = (await request.formData()).get("amps");
      sent.push(amps);
      return amps === "2" && status ? ours(status) : held("/");
    });
  one.answers(answer(503));
  await one.say("send");
  assert.equal(one.line.length, 2);
  one.answers(answer(0));
  await one.say("send");
  assert.deepEqual(sent, ["1", "2", "2", "3"]);
  assert.equal(one.line.length, 0);
});

test("nothing is sent under another name, nor while nobody is signed in", async () => {
  const one = await keeping("ann", "1");
  for (const who of ["ben", ""]) {
    one.answers(asWho(who, () => assert.fail("sent")));
    await one.say("send");
    assert.equal(one.line.length, 1);
  }
  one.answers(asWho("ben", () => assert.fail("sent")));
  await one.say({ who: "ben" });
  assert.deepEqual(one.told.at(-1), { waiting: 0, refused: 0, others: 1 });
  one.answers(asWho("ann", async () => held("/")));
  await one.say("send");
  assert.equal(one.line.length, 0);
});

test("one that is refused lets the others by and stays on the device", async () => {
  const one = await keeping("ann", "1", "2");
  const sent = [];
  one.answers(
    asWho("ann", async (request) => {
      const amps = (await request.formData()).get("amps");
      sent.push(amps);
      return amps === "1" ? ours(404) : held("/");
    }),
  );
  await one.say("send");
  await one.say("send");
  assert.deepEqual(sent, ["1", "2"]);
  assert.equal(one.line.length, 1);
  assert.deepEqual(one.told.at(-1), { waiting: 0, refused: 1, others: 0 });
});
