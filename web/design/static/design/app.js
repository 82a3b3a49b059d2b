// What the pages do by themselves: theme, units, keys, faults beside their inputs, and the reading cursor.
"use strict";

const YEAR_S = 31536000;
const keep = (name, value) => {
  document.cookie = `${name}=${value}; path=/; max-age=${YEAR_S}; SameSite=Lax`;
};

function toggleTheme() {
  const root = document.documentElement;
  const dark = root.dataset.theme
    ? root.dataset.theme === "night"
    : matchMedia("(prefers-color-scheme: dark)").matches;
  root.dataset.theme = dark ? "day" : "night";
  keep("theme", root.dataset.theme);
}

// What the form is asked for (a load more, a part out) is answered one after another: an answer
// draws the form anew, so a second request may neither overtake nor replace it. What is typed
// meanwhile is put back into the new form and sent after it.
const asks = { waiting: [], now: null, again: false, sent: new Map() };
const ASKING_SELECTS =
  "#inputs select[name=add_load], #inputs select[name=use_supply], #inputs select[name=kept_rig], #inputs select[name=kept_supply]";
const stateOf = (input) =>
  input.type === "checkbox" || input.type === "radio" ? input.checked : input.value;
const figuresNow = () =>
  new Map(
    [...document.querySelectorAll("#inputs :is(input:not([type=hidden]), select)[name]")].map(
      (input) => [input.name, stateOf(input)],
    ),
  );
// Only a load more leaves every row where it was; after any other answer loads[2] may be another load.
const staysPut = (name) => !asks.now || asks.now.name === "add_load" || !/\[\d+\]/.test(name);

function ask(name, value) {
  asks.waiting.push({ name, value });
  if (!asks.now) nextAsk();
}

function nextAsk() {
  asks.now = asks.waiting.shift() ?? null;
  const form = document.getElementById("setup");
  if (!asks.now) {
    if (asks.again) {
      asks.again = false;
      htmx.trigger(form, "redraw");
    }
    return;
  }
  const field = document.createElement("input");
  field.type = "hidden";
  field.name = asks.now.name;
  field.value = asks.now.value;
  form.append(field);
  asks.sending = true;
  htmx.trigger(form, "redraw");
  asks.sending = false;
  field.remove();
}

function putBack(before) {
  for (const [name, value] of before) {
    const input = document.querySelector(
      `#inputs :is(input:not([type=hidden]), select)[name="${CSS.escape(name)}"]`,
    );
    if (!input || stateOf(input) === value) continue;
    if (typeof value === "boolean") input.checked = value;
    else input.value = value;
    asks.again = true;
  }
}

document.addEventListener("htmx:confirm", (event) => {
  if (event.detail.elt.id !== "setup" || !asks.now || asks.sending) return;
  event.preventDefault();
  asks.again = true;
});
document.addEventListener("htmx:beforeRequest", (event) => {
  if (event.detail.elt.id !== "setup") return;
  asks.sent = figuresNow();
  if (asks.sending) asks.request = event.detail.xhr;
});
document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.requestConfig?.elt.id !== "setup") return;
  const since = [...figuresNow()].filter(
    ([name, value]) => asks.sent.has(name) && asks.sent.get(name) !== value && staysPut(name),
  );
  asks.typed = asks.now?.name === "units_changed" ? [] : since;
});
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.elt.id !== "setup") return;
  putBack(asks.typed ?? []);
  asks.typed = [];
  if (asks.now && event.detail.xhr === asks.request) setTimeout(nextAsk); // once this request has let go of the form
});
document.addEventListener(
  "change",
  (event) => {
    if (!event.target.matches?.(ASKING_SELECTS) || !event.target.value) return;
    event.stopPropagation();
    const { name, value } = event.target;
    event.target.value = "";
    ask(name, value);
  },
  { capture: true },
);

// A save that comes back to the same page leaves it where it was read, and says so there.
document.addEventListener("htmx:beforeOnLoad", (event) => {
  const to = event.detail.xhr.getResponseHeader("HX-Redirect");
  if (to && event.target.closest?.("#save") && to === location.pathname)
    sessionStorage.setItem("saved-at", String(scrollY));
});
document.addEventListener("DOMContentLoaded", () => {
  const at = sessionStorage.getItem("saved-at");
  if (at === null) return;
  sessionStorage.removeItem("saved-at");
  const answer = document.getElementById("save-answer"),
    flash = document.querySelector("main > .flash");
  if (answer && flash) {
    answer.textContent = flash.textContent;
    flash.remove();
  }
  scrollTo({ top: Number(at), behavior: "instant" });
});

function showFaults(target) {
  document.querySelectorAll("#inputs [data-fault-for]").forEach((place) => {
    place.textContent = "";
    const input = document.querySelector(`[aria-describedby="${place.id}"]`);
    if (input) input.removeAttribute("aria-invalid");
  });
  target.querySelectorAll("[data-fault]").forEach((fault) => {
    const place = document.querySelector(`[data-fault-for="${CSS.escape(fault.dataset.fault)}"]`);
    if (!place || place.textContent) return;
    place.textContent = fault.dataset.message;
    const input = document.querySelector(`[aria-describedby="${place.id}"]`);
    if (input) input.setAttribute("aria-invalid", "true");
  });
}

const cursor = { at: null };

function readCursor(plot, at) {
  const rows = JSON.parse(plot.dataset.series);
  cursor.at = Math.max(0, Math.min(rows.length - 1, at));
  const [x, t, amps, volts] = rows[cursor.at];
  const mark = plot.querySelector("#plot-cursor");
  mark.removeAttribute("hidden");
  mark.setAttribute("transform", `translate(${x} 0)`);
  const text = `${t.toFixed(2)} s  ${amps.toFixed(1)} A  ${volts.toFixed(1)} V`;
  document.getElementById("plot-reading").textContent = text;
  plot.setAttribute("aria-valuenow", Math.round((100 * cursor.at) / (rows.length - 1)));
  plot.setAttribute("aria-valuetext", text);
}

function pointCursor(event) {
  const plot = event.target.closest("#plot");
  if (!plot) return;
  const box = plot.querySelector("svg").getBoundingClientRect();
  const x = ((event.clientX - box.left) / box.width) * 580;
  const rows = JSON.parse(plot.dataset.series);
  let best = 0;
  rows.forEach((row, n) => {
    if (Math.abs(row[0] - x) < Math.abs(rows[best][0] - x)) best = n;
  });
  readCursor(plot, best);
}

function plotKeys(event) {
  const plot = event.target.closest?.("#plot");
  if (!plot) return;
  const last = JSON.parse(plot.dataset.series).length - 1;
  const step = event.shiftKey ? 10 : 1;
  const now = cursor.at ?? 0;
  const to = {
    ArrowRight: now + step,
    ArrowUp: now + step,
    ArrowLeft: now - step,
    ArrowDown: now - step,
    Home: 0,
    End: last,
  }[event.key];
  if (to === undefined) return;
  event.preventDefault();
  readCursor(plot, to);
}

function shortcut(event) {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "s") {
    const save = document.getElementById("save");
    if (save) {
      event.preventDefault();
      save.click();
    }
    return;
  }
  if (document.cookie.includes("keys=off")) return;
  if (
    event.ctrlKey ||
    event.metaKey ||
    event.altKey ||
    event.target.closest?.("input, select, textarea")
  )
    return;
  if (event.key === "?") document.getElementById("help").togglePopover();
  else if (event.key === "d") toggleTheme();
  else if (event.key === "n") location.href = "/setups/new/";
  else if (/^[1-9]$/.test(event.key))
    document.querySelector(`nav a[data-key="${event.key}"]`)?.click();
}

document.addEventListener("click", (event) => {
  if (event.target.closest("#theme, [data-theme-toggle]")) toggleTheme();
  const units = event.target.closest("[data-units]");
  if (units) {
    keep("units", units.dataset.units);
    // The figures on the page are still in the old units: post them as such, and have them shown anew.
    ask("units_changed", units.dataset.units);
  }
  const asking = event.target.closest("[data-ask]");
  if (asking) ask(asking.name, asking.value);
});
function sayKeys() {
  const off = document.cookie.includes("keys=off");
  document.getElementById("keys").textContent = off ? "Turn the keys on" : "Turn the keys off";
}
document.addEventListener("click", (event) => {
  if (event.target.id !== "keys") return;
  keep("keys", document.cookie.includes("keys=off") ? "on" : "off");
  sayKeys();
});
document.addEventListener("DOMContentLoaded", sayKeys);
document.addEventListener("pointermove", pointCursor);
document.addEventListener("pointerdown", pointCursor);
document.addEventListener("keydown", plotKeys);
document.addEventListener("keydown", shortcut);
document.addEventListener("submit", (event) => {
  if (event.target.id === "setup") {
    event.preventDefault();
    document.getElementById("save").click();
  }
});
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target.id !== "verdict") return;
  cursor.at = null;
  showFaults(event.detail.target);
  document.getElementById("said").textContent = ["verdict-word", "iron-margin"]
    .map((id) => document.getElementById(id)?.textContent ?? "")
    .join(" ");
});
// What went wrong with any request is said on any page, until one goes well.
function trouble(words) {
  const place = document.getElementById("trouble");
  place.textContent = words;
  place.hidden = !words;
}
document.addEventListener("htmx:sendError", () =>
  trouble("The server does not answer. What you typed is still here; try again in a moment."),
);
document.addEventListener("htmx:responseError", () =>
  trouble(
    "The server could not do that. What you typed is still here; reload if it happens again.",
  ),
);
document.addEventListener("htmx:afterOnLoad", (event) => {
  if (event.detail.xhr.status < 400) trouble("");
});

// The path drawing: a part or a gap opens the menu; keys and dragging do the same without it.
const pathMenu = { part: null, gap: null };

function openPathMenu(part, gap) {
  const menu = document.getElementById("part-menu");
  pathMenu.part = part;
  pathMenu.gap = gap;
  const name =
    part === null
      ? "Put a part in"
      : document.querySelector(`[data-part="${part}"]`).getAttribute("aria-label").split(",")[0];
  document.getElementById("part-menu-title").textContent = name;
  document.getElementById("part-kind-label").textContent =
    part === null ? "Which part" : "Put another in its place";
  document.getElementById("part-do").textContent = part === null ? "Put it in" : "Replace it";
  menu.querySelectorAll("[data-part-only]").forEach((b) => {
    b.hidden = part === null;
  });
  menu.showModal();
}

function pathOp(words) {
  document.getElementById("part-menu").close();
  ask("path_op", words);
}

document.addEventListener("click", (event) => {
  const part = event.target.closest("[data-part]"),
    gap = event.target.closest("[data-gap]");
  if (part && part.closest("#path")) openPathMenu(Number(part.dataset.part), null);
  else if (gap && gap.closest("#path")) openPathMenu(null, Number(gap.dataset.gap));
  else if (event.target.id === "part-do") {
    const kind = document.getElementById("part-kind").value;
    pathOp(
      pathMenu.part === null
        ? `insert:${pathMenu.gap}:${kind}`
        : `replace:${pathMenu.part}:${kind}`,
    );
  } else if (event.target.id === "part-left")
    pathOp(`move:${pathMenu.part}:${Math.max(pathMenu.part - 1, 0)}`);
  else if (event.target.id === "part-right") pathOp(`move:${pathMenu.part}:${pathMenu.part + 1}`);
  else if (event.target.id === "part-out") pathOp(`remove:${pathMenu.part}`);
  else if (event.target.id === "part-close") document.getElementById("part-menu").close();
});

document.addEventListener("keydown", (event) => {
  const part = event.target.closest?.("#path [data-part]"),
    gap = event.target.closest?.("#path [data-gap]");
  if (!part && !gap) return;
  const at = part ? Number(part.dataset.part) : null;
  if (event.key === "Enter" || event.key === " ") {
    event.preventDefault();
    openPathMenu(at, gap ? Number(gap.dataset.gap) : null);
  } else if (part && event.key === "Delete") {
    event.preventDefault();
    ask("path_op", `remove:${at}`);
  } else if (part && event.altKey && event.key === "ArrowLeft" && at > 0) {
    event.preventDefault();
    ask("path_op", `move:${at}:${at - 1}`);
  } else if (part && event.altKey && event.key === "ArrowRight") {
    event.preventDefault();
    ask("path_op", `move:${at}:${at + 1}`);
  }
});

let draggedPart = null;
document.addEventListener("pointerdown", (event) => {
  const part = event.target.closest?.("#path [data-part]");
  draggedPart = part ? { at: Number(part.dataset.part), x: event.clientX } : null;
});
document.addEventListener("pointerup", (event) => {
  const from = draggedPart;
  draggedPart = null;
  if (!from || Math.abs(event.clientX - from.x) < 40) return;
  const scale =
    document.getElementById("path").getBoundingClientRect().width /
    document.getElementById("path").viewBox.baseVal.width;
  const to = Math.max(0, from.at + Math.round((event.clientX - from.x) / (128 * scale)));
  if (to === from.at) return;
  document.addEventListener(
    "click",
    (click) => {
      click.stopPropagation();
      click.preventDefault();
    },
    { capture: true, once: true },
  );
  ask("path_op", `move:${from.at}:${to}`);
});

// The start picture as a file of its own: the drawn shapes with the look they have now.
document.addEventListener("click", (event) => {
  if (event.target.id !== "plot-svg") return;
  const drawn = document.querySelector("#plot svg"),
    copy = drawn.cloneNode(true);
  const from = [drawn, ...drawn.querySelectorAll("*")],
    to = [copy, ...copy.querySelectorAll("*")];
  from.forEach((shape, n) => {
    for (const name of [
      "fill",
      "fill-opacity",
      "opacity",
      "stroke",
      "stroke-width",
      "stroke-dasharray",
      "font-family",
      "font-size",
      "text-anchor",
    ])
      to[n].setAttribute(name, getComputedStyle(shape).getPropertyValue(name));
  });
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("width", "870");
  copy.setAttribute("height", "450");
  copy.querySelector("#plot-cursor").remove();
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([copy.outerHTML], { type: "image/svg+xml" }));
  link.download = "start.svg";
  link.click();
  URL.revokeObjectURL(link.href);
});

// A page that is left asks for nothing any more: its searches end, unless another page still waits for them.
window.addEventListener("pagehide", () => {
  const jobs = [...document.querySelectorAll("[data-job]")].map((place) => place.dataset.job);
  if (!jobs.length) return;
  const body = new FormData();
  body.append(
    "csrfmiddlewaretoken",
    JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"],
  );
  jobs.forEach((job) => body.append("job", job));
  navigator.sendBeacon(document.body.dataset.left, body);
});

// Without network: pages kept on this device say how old they are, presses wait here and are sent later.
function sayAge() {
  const place = document.getElementById("age");
  const old = Math.round(Date.now() / 1000 - Number(document.body.dataset.made));
  const minutes = Math.round(old / 60);
  const kept = new URLSearchParams(location.search).has("kept");
  place.hidden = navigator.onLine && !kept;
  place.textContent = kept
    ? "Kept on this device; it is sent when the network is back."
    : `No network. This page is ${minutes < 1 ? "of this minute" : `${minutes} min old`}.`;
}
if ("serviceWorker" in navigator && document.querySelector("nav")) {
  navigator.serviceWorker.register("/sw.js");
  window.addEventListener("online", () => {
    sayAge();
    navigator.serviceWorker.controller?.postMessage("send");
  });
  window.addEventListener("offline", sayAge);
  document.addEventListener("DOMContentLoaded", sayAge);
  document.addEventListener("kept-here", () => {
    trouble("");
    const place = document.getElementById("age");
    place.hidden = false;
    place.textContent = "Kept on this device; it is sent when the network is back.";
  });
  document.addEventListener("submit", (event) => {
    if (event.target.action?.endsWith("/account/sign-out/"))
      navigator.serviceWorker.controller?.postMessage("leave");
  });
}
