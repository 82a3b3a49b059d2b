import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { runInNewContext } from "node:vm";

const TEMPLATE = new URL("../../web/design/templates/design/sw.js", import.meta.url);
const SCRIPT = readFileSync(TEMPLATE, "utf8").replace(/{[%{].*?[%}]}/g, "");

// The worker on its own: what it listens to, how it answers pages, and with which strategy.
function worker() {
  const heard = {};
  const routes = [];
  const made = [];
  let now = 1_000_000;
  class NetworkFirst {
    constructor(asked) {
      Object.assign(this, asked);
      made.push(this);
    }
    handle = async () => this;
  }
  runInNewContext(SCRIPT, {
    importScripts: () => {},
    Response,
    Date: { now: () => now },
    location: { origin: "http://site.test" },
    self: { addEventListener: (name, act) => (heard[name] = act) },
    workbox: {
      core: { skipWaiting() {}, clientsClaim() {} },
      expiration: { ExpirationPlugin: class {} },
      routing: { registerRoute: (matches, answer) => routes.push({ matches, answer }) },
      strategies: { NetworkFirst },
      precaching: { precacheAndRoute() {} },
      backgroundSync: { Queue: class {} },
    },
  });
  const url = new URL("http://site.test/log/7/");
  return {
    made,
    later: (ms) => (now += ms),
    ask: (method, keepalive = false) => heard.fetch({ request: { method, keepalive } }),
    page: () => routes[0].answer({ url, request: { mode: "navigate" } }),
  };
}

test("a silent network is waited for four seconds, and as long as it takes after a change", async () => {
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
