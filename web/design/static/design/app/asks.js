import { keep } from "./preferences.js";

// What the form is asked for (a load more, a part out) is answered one after another: an answer
// draws the form anew, so a second request may neither overtake nor replace it. What is typed
// meanwhile is put back into the new form and sent after it.
const asks = { waiting: [], now: null, again: false, sent: new Map() };
const ASKING_SELECTS =
  "#inputs select[name=add_load], #inputs select[name=use_supply], " +
  "#inputs select[name=kept_rig], #inputs select[name=kept_supply]";
const stateOf = (input) =>
  input.type === "checkbox" || input.type === "radio" ? input.checked : input.value;
const FIGURES = "#inputs :is(input:not([type=hidden]), select)[name]";
const figuresNow = () =>
  new Map([...document.querySelectorAll(FIGURES)].map((input) => [input.name, stateOf(input)]));
// Only a load more leaves every row where it was; after any other answer loads[2] may be another
// load.
const staysPut = (name) => !asks.now || asks.now.name === "add_load" || !/\[\d+\]/.test(name);

// Steps back: what the form's hidden fields held before each change. Taking one up again is a
// change like any other, answered with the form drawn anew.
const BASES = ["document", "rig_pk", "rig_version", "supply_pk", "supply_version"];
const steps = [];
const basesNow = () =>
  Object.fromEntries(
    BASES.map((name) => [name, document.querySelector(`#inputs [name=${name}]`)?.value]),
  );
function sayUndo() {
  const button = document.getElementById("undo");
  if (button) button.hidden = !steps.length;
}
function undo() {
  const before = steps.pop();
  if (!before) return;
  for (const name of BASES) document.querySelector(`#inputs [name=${name}]`).value = before[name];
  ask("undo", "1");
}

export function ask(name, value) {
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
  asks.before = basesNow();
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
  const undone = asks.now?.name === "undo" && event.detail.xhr === asks.request;
  if (!undone && asks.before && asks.before.document !== basesNow().document)
    steps.push(asks.before);
  sayUndo();
  putBack(undone ? [] : (asks.typed ?? []));
  asks.typed = [];
  // once this request has let go of the form
  if (asks.now && event.detail.xhr === asks.request) setTimeout(nextAsk);
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

document.addEventListener("click", (event) => {
  const units = event.target.closest("[data-units]");
  if (units) {
    keep("units", units.dataset.units);
    // The figures on the page are still in the old units: post them as such, and have them
    // shown anew.
    ask("units_changed", units.dataset.units);
  }
  if (event.target.id === "undo") undo();
  const asking = event.target.closest("[data-ask]");
  if (asking) ask(asking.name, asking.value);
});

// What was typed before this script was there to hear it is asked for now.
const typedBefore = (input) => {
  if (input.type === "checkbox" || input.type === "radio")
    return input.checked !== input.defaultChecked;
  if (input.tagName !== "SELECT") return input.value !== input.defaultValue;
  const first = [...input.options].findIndex((option) => option.defaultSelected);
  return input.selectedIndex !== Math.max(first, 0);
};
document.addEventListener(
  "htmx:load",
  () => {
    const form = document.getElementById("setup");
    if (form && [...form.querySelectorAll(FIGURES)].some(typedBefore)) htmx.trigger(form, "redraw");
  },
  { once: true },
);
