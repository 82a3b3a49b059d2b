// Now answers on the device: a press moves its chip at once, from the table the server computed
// before; it is sent when there is a network, in order, and two presses of one chip cancel each
// other.
import { barPath } from "./bar.js";

const RETRY_MS = 5000;

export function keyOf(on) {
  return Object.entries(on)
    .map(([load, mode]) => `${load}=${mode ?? ""}`)
    .sort()
    .join("\n");
}

// What is on after a press: `mode` is "off", "on" or a mode of its own.
export function pressed(on, load, mode, always) {
  const next = { ...on };
  if (mode !== "off") next[load] = mode === "on" ? null : mode;
  else if (always) next[load] = "off";
  else delete next[load];
  return next;
}

// The presses that still have to be sent, after one more: the last of a chip counts, and none where
// it is again as the server has it.
export function queued(presses, load, mode, onServer) {
  const left = presses.filter((press) => press.load !== load);
  return mode === onServer ? left : [...left, { load, mode }];
}

const percent = (margin) => {
  const whole = Math.max(Math.abs(Math.round(margin * 100)), margin < 0 ? 1 : 0);
  const sign = margin < 0 ? "−" : "+";
  return whole <= 999 ? `${sign}${whole} %` : `${margin < 0 ? "<" : ">"} ${sign}999 %`;
};
const words = (mode) => mode.replaceAll("-", " ");
const slot = (root, name) => root.querySelector(`[data-slot="${name}"]`);
const say = (root, name, text) => {
  const place = slot(root, name);
  if (place) place.textContent = text;
};
const show = (root, name, shown) => {
  const place = slot(root, name);
  if (place) place.hidden = !shown;
};

const form = document.getElementById("now");
const store = `now-presses:${form?.dataset.setup}`;
const now = { table: null, on: {}, server: {}, presses: [], sending: false, offline: false };

function readPage() {
  const state = JSON.parse(document.getElementById("now-state").textContent);
  drawBar(Number(document.getElementById("now-bar").dataset.margin));
  now.server = state.on;
  now.on = { ...state.on };
  for (const { load, mode } of now.presses) now.on = pressed(now.on, load, mode, isAlways(load));
  if (now.presses.length) draw();
}

const chipOf = (load) => form.querySelector(`.now-chip[data-load="${CSS.escape(load)}"]`);
const isAlways = (load) => !!chipOf(load)?.dataset.always;

function drawChip(chip, found) {
  const load = chip.dataset.load;
  const mode = now.on[load];
  if (mode && mode !== "off") chip.dataset.mode = mode;
  chip.className = `now-chip now-${found.say}`;
  const button = chip.querySelector("button");
  const on = found.say === "on";
  button.value = `${load}=${on ? "off" : chip.dataset.mode || "on"}`;
  button.setAttribute("aria-pressed", String(on));
  button.disabled = found.say === "never";
  say(chip, "mode", chip.dataset.mode ? `, ${words(chip.dataset.mode)}` : "");
  say(chip, "first-off", (found.first_off ?? []).join(" and "));
  if (found.margin != null) say(chip, "margin", percent(found.margin));
  if (found.amps != null) say(chip, "amps", `${found.amps.toFixed(1)} A`);
  say(chip, "cycle-names", (found.cycle ?? []).join(" or "));
  show(chip, "cycle", (found.cycle ?? []).length > 0);
  for (const knob of chip.querySelectorAll(".now-mode"))
    knob.setAttribute("aria-pressed", String(knob.value === `${load}=${chip.dataset.mode}`));
  const group = form.querySelector(`[data-group="${found.say}"]`);
  const row = chip.parentElement;
  if (row.parentElement !== group) group.append(row);
}

function drawBar(margin) {
  const bar = document.getElementById("now-bar");
  const state = margin < 0 ? "fails" : "holds";
  bar.removeAttribute("hidden");
  bar.firstElementChild.setAttribute("class", state === "fails" ? "bar-fails" : "bar-iron");
  bar.firstElementChild.setAttribute("d", barPath(state, margin));
}

function drawReads(state) {
  drawBar(state.margin);
  const reads = document.getElementById("now-reads");
  say(reads, "margin", percent(state.margin));
  slot(reads, "margin").className = `answer-word state-${state.margin < 0 ? "fails" : "holds"}`;
  for (const leg of state.legs) {
    const place = reads.querySelector(`[data-leg="${leg.name}"]`);
    if (!place) continue;
    say(place, "amps", leg.amps.toFixed(1));
    say(place, "volts", String(leg.volts));
  }
  say(reads, "watts", state.watts.toLocaleString("en-US"));
  show(reads, "over", state.margin < 0);
  show(reads, "under", state.margin >= 0);
  say(form, "now-cycle-names", state.cycle.join(" and "));
  show(form, "now-cycle", state.cycle.length > 0);
}

// What is known of a state that is in no table: which loads are on; their figures come later.
function drawUnknown() {
  for (const chip of form.querySelectorAll(".now-chip")) {
    const load = chip.dataset.load;
    const on = load in now.on ? now.on[load] !== "off" : isAlways(load);
    if (on) drawChip(chip, { say: "on" });
    else if (chip.classList.contains("now-on")) drawChip(chip, { say: "may", cycle: [] });
  }
}

function draw() {
  const state = now.table?.states[keyOf(now.on)];
  if (state) {
    drawReads(state);
    for (const chip of form.querySelectorAll(".now-chip"))
      if (state.chips[chip.dataset.load]) drawChip(chip, state.chips[chip.dataset.load]);
  } else drawUnknown();
  for (const group of form.querySelectorAll("[data-group]"))
    group.closest("section").hidden = !group.children.length;
  tell(state);
}

function tell(state) {
  const place = document.getElementById("now-told");
  place.hidden = !now.offline || !now.presses.length;
  const count = `${now.presses.length} press${now.presses.length > 1 ? "es" : ""}`;
  const kept = `${count} stored on this device; sent when the network is back.`;
  place.textContent = state
    ? `Computed at ${now.table.at}, before the connection was lost. ${kept}`
    : `The figures come when the network is back. ${kept}`;
}

function remember() {
  if (now.presses.length) localStorage.setItem(store, JSON.stringify(now.presses));
  else localStorage.removeItem(store);
}

function press(load, mode) {
  const always = isAlways(load);
  now.on = pressed(now.on, load, mode, always);
  const server = load in now.server ? (now.server[load] ?? "on") : always ? "on" : "off";
  now.presses = queued(now.presses, load, mode, server);
  remember();
  draw();
  send();
}

async function post({ load, mode }) {
  const body = new FormData(form);
  body.set("set", `${load}=${mode}`);
  return fetch(form.action, { method: "POST", body, headers: { "HX-Request": "true" } });
}

// Whether our own server took a press, or said why not: no error, no page of somebody else's.
const WAIT = [401, 408, 425, 429];
export function isTaken(answer) {
  const ours = Boolean(answer.headers.get("X-Request-ID")) && !answer.redirected;
  return ours && answer.status < 500 && !WAIT.includes(answer.status);
}

async function send() {
  if (now.sending || !now.presses.length) return;
  now.sending = true;
  try {
    if (!navigator.onLine) throw new Error("no network");
    while (now.presses.length) {
      const first = now.presses[0];
      const answer = await post(first);
      if (!isTaken(answer)) throw answer;
      now.presses = now.presses.filter((other) => other !== first);
      remember();
      now.offline = false;
      if (!now.presses.length && answer.ok) take(await answer.text());
    }
  } catch {
    now.offline = true;
    setTimeout(send, RETRY_MS);
  } finally {
    now.sending = false;
    if (now.presses.length) draw();
  }
}

function take(html) {
  form.querySelectorAll(":scope > :not([name=csrfmiddlewaretoken])").forEach((old) => old.remove());
  form.insertAdjacentHTML("beforeend", html);
  htmx.process(form);
  readPage();
  getTable();
}

async function getTable() {
  try {
    const answer = await fetch(form.dataset.table);
    const found = await answer.json();
    if (answer.status === 202) setTimeout(getTable, 700);
    else if (answer.ok) {
      now.table = found;
      form.dataset.at = found.at;
    }
  } catch {
    // without a network the table of before still serves
  }
}

if (form) {
  now.presses = JSON.parse(localStorage.getItem(store) ?? "[]");
  readPage();
  getTable().then(() => {
    if (now.presses.length) {
      draw();
      send();
    }
  });
  form.addEventListener(
    "click",
    (event) => {
      const button = event.target.closest("button[name=set]");
      if (!button) return;
      event.preventDefault();
      event.stopPropagation();
      const at = button.value.lastIndexOf("=");
      press(button.value.slice(0, at), button.value.slice(at + 1));
    },
    { capture: true },
  );
  // While presses wait here, what the server still has is not drawn over them.
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.detail.target === form && now.presses.length) event.detail.shouldSwap = false;
  });
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target !== form) return;
    readPage();
    getTable();
  });
  window.addEventListener("online", send);
}
