// A page for the scripts under test: elements without a browser, and what htmx and the device
// would do, noted.
import { JSDOM } from "jsdom";

export const SCRIPTS = new URL("../../web/design/static/design/", import.meta.url).href;
const NAMES = [
  "document",
  "location",
  "FormData",
  "URLSearchParams",
  "Blob",
  "Event",
  "MouseEvent",
  "DOMParser",
  "sessionStorage",
  "localStorage",
];

// Makes a page of some HTML the present one; what is noted comes back with it.
export function open(html, { online = true, narrow = false } = {}) {
  const dom = new JSDOM(
    `<!doctype html><html>` +
    `<body data-made="0" data-left="/left/" hx-headers='{"X-CSRFToken": "t"}'>${html}</body>` +
    `</html>`,
    { url: "http://site.test/setups/7/" },
  );
  const { window } = dom;
  const noted = { fired: [], sent: [], beacons: [], scrolled: 0 };
  for (const name of NAMES) globalThis[name] = window[name] ?? globalThis[name];
  const navigator = {
    onLine: online,
    sendBeacon: (url, body) => noted.beacons.push([url, [...body.entries()]]),
  };
  Object.defineProperty(globalThis, "navigator", { value: navigator, configurable: true });
  globalThis.window = window;
  globalThis.CSS = { escape: (text) => text.replace(/["\\\]]/g, "\\$&") };
  globalThis.matchMedia = () => ({ matches: narrow, addEventListener: () => {} });
  globalThis.htmx = {
    trigger: (element, name) => {
      const field = element.querySelector(":scope > input[type=hidden]:last-child");
      noted.fired.push([name, field?.name, field?.value]);
    },
    ajax: async (method, url, { values, target }) => {
      noted.sent.push([method, url, values]);
      noted.answer?.(target);
    },
  };
  return { ...noted, noted, window, at: (selector) => window.document.querySelector(selector) };
}

let loaded = 0;
// Loads a script anew, so that it listens to the present page.
export const load = (name) => import(`${SCRIPTS}${name}?${(loaded += 1)}`);

export function fire(element, name, detail = {}) {
  const event = new window.CustomEvent(name, { bubbles: true, cancelable: true, detail });
  element.dispatchEvent(event);
  return event;
}

export function press(element, key, more = {}) {
  const event = new window.KeyboardEvent("keydown", {
    key,
    bubbles: true,
    cancelable: true,
    ...more,
  });
  element.dispatchEvent(event);
  return event;
}

export const turn = () => new Promise((done) => setTimeout(done));
