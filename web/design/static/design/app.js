// What the pages do by themselves: theme, units, keys, faults beside their inputs, and the reading cursor.
"use strict";

const YEAR_S = 31536000;
const keep = (name, value) => { document.cookie = `${name}=${value}; path=/; max-age=${YEAR_S}; SameSite=Lax`; };

function toggleTheme() {
  const root = document.documentElement;
  const dark = root.dataset.theme ? root.dataset.theme === "night" : matchMedia("(prefers-color-scheme: dark)").matches;
  root.dataset.theme = dark ? "day" : "night";
  keep("theme", root.dataset.theme);
}

// The form's hidden fields that ask for something are set, sent once, and cleared by the answer.
function ask(name, value) {
  const form = document.getElementById("setup");
  const field = document.createElement("input");
  field.type = "hidden"; field.name = name; field.value = value;
  form.append(field);
  htmx.trigger(form, "redraw");
  field.remove();
}

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
  rows.forEach((row, n) => { if (Math.abs(row[0] - x) < Math.abs(rows[best][0] - x)) best = n; });
  readCursor(plot, best);
}

function plotKeys(event) {
  const plot = event.target.closest?.("#plot");
  if (!plot) return;
  const last = JSON.parse(plot.dataset.series).length - 1;
  const step = event.shiftKey ? 10 : 1;
  const now = cursor.at ?? 0;
  const to = { ArrowRight: now + step, ArrowUp: now + step, ArrowLeft: now - step, ArrowDown: now - step, Home: 0, End: last }[event.key];
  if (to === undefined) return;
  event.preventDefault();
  readCursor(plot, to);
}

function shortcut(event) {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "s") {
    const save = document.getElementById("save");
    if (save) { event.preventDefault(); save.click(); }
    return;
  }
  if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest?.("input, select, textarea")) return;
  if (event.key === "?") document.getElementById("help").togglePopover();
  else if (event.key === "d") toggleTheme();
  else if (event.key === "n") document.querySelector('nav a[href$="/new/"]')?.click();
  else if (event.key === "g") document.querySelector('nav a[href$="/setups/"]')?.click();
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
document.addEventListener("pointermove", pointCursor);
document.addEventListener("pointerdown", pointCursor);
document.addEventListener("keydown", plotKeys);
document.addEventListener("keydown", shortcut);
document.addEventListener("submit", (event) => {
  if (event.target.id === "setup") { event.preventDefault(); document.getElementById("save").click(); }
});
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target.id !== "verdict") return;
  cursor.at = null;
  showFaults(event.detail.target);
});
document.addEventListener("htmx:sendError", () => {
  document.getElementById("save-answer").textContent = "The server does not answer. What you typed is still here; try again in a moment.";
});
document.addEventListener("htmx:responseError", () => {
  document.getElementById("save-answer").textContent = "The server could not do that. What you typed is still here; reload if it happens again.";
});
