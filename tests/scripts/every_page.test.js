import assert from "node:assert/strict";
import { test } from "node:test";
import { fire, load, open, press, turn } from "./page.js";

test("a person's light, units and keys are kept in cookies", async () => {
  const page = open('<button id="theme"></button><button id="keys"></button>');
  await load("app/preferences.js");
  page.at("#theme").click();
  assert.equal(document.documentElement.dataset.theme, "night");
  page.at("#theme").click();
  assert.equal(document.documentElement.dataset.theme, "day");
  assert.match(document.cookie, /theme=day/);
  page.at("#keys").click();
  assert.match(document.cookie, /keys=off/);
  assert.equal(page.at("#keys").textContent, "Turn the keys on");
  delete document.documentElement.dataset.theme; // the page for no network knows nobody's choice
  await load("app/preferences.js");
  assert.equal(document.documentElement.dataset.theme, "day");
});

test("keys do nothing in a field or when they are off, and saving is never off", async () => {
  const page = open(
    '<nav><a data-key="2" href="#two">two</a></nav><input id="field"><button id="save">' +
    '</button><button id="keys"></button>',
  );
  await load("app/shortcuts.js");
  let followed = 0;
  let saved = 0;
  page.at("a").addEventListener("click", () => (followed += 1));
  page.at("#save").addEventListener("click", () => (saved += 1));
  press(page.at("#field"), "2");
  assert.equal(followed, 0);
  press(document.body, "2");
  assert.equal(followed, 1);
  document.cookie = "keys=off";
  press(document.body, "2");
  assert.equal(followed, 1);
  assert.ok(press(page.at("#field"), "s", { ctrlKey: true }).defaultPrevented);
  assert.equal(saved, 1);
});

test("what the form is asked for is asked one after another", async () => {
  const page = open(
    '<form id="setup"><div id="inputs"></div>' +
    '<button type="button" data-ask name="path_op" value="remove:0"></button></form>',
  );
  const { ask } = await load("app/asks.js");
  const form = page.at("#setup");
  const requests = [];
  htmx.trigger = (element) => {
    const field = element.querySelector(":scope > input[type=hidden]");
    const xhr = { asked: [field.name, field.value] };
    requests.push(xhr);
    fire(element, "htmx:beforeRequest", { elt: element, xhr });
  };
  ask("add_load", "fan");
  page.at("[data-ask]").click();
  assert.deepEqual(
    requests.map((xhr) => xhr.asked),
    [["add_load", "fan"]],
  );
  assert.equal(
    form.querySelector(":scope > input[type=hidden]"),
    null,
    "the asking field is gone again",
  );
  fire(form, "htmx:afterRequest", { elt: form, xhr: {} });
  await turn();
  assert.equal(requests.length, 1, "another request's answer is not this one's");
  fire(form, "htmx:afterRequest", { elt: form, xhr: requests[0] });
  await turn();
  assert.deepEqual(requests[1].asked, ["path_op", "remove:0"]);
});

test("what was typed before the scripts were there is asked for", async () => {
  const html =
    '<form id="setup"><div id="inputs"><input name="a" value="13">' +
    '<input type="checkbox" name="b">' +
    '<select name="c"><option>x<option selected>y</select><select name="d"><option>z</select>' +
    '</div></form>';
  for (const [type, times] of [
    [() => {}, 0],
    [(page) => (page.at("[name=a]").value = "15"), 1],
    [(page) => (page.at("[name=b]").checked = true), 1],
    [(page) => (page.at("[name=c]").selectedIndex = 0), 1],
  ]) {
    const page = open(html);
    type(page);
    await load("app/asks.js");
    fire(document.body, "htmx:load");
    fire(document.body, "htmx:load"); // as after every answer
    assert.deepEqual(
      page.fired.map(([name]) => name),
      Array(times).fill("redraw"),
    );
  }
});

test("the keys stay where they were when a part is drawn anew", async () => {
  const links = '<a href="/a/">One</a><a href="/b/">Two</a>';
  for (const [anew, where] of [
    [links, "Two"],
    [`<input>${links}`, "Two"],
    ['<a href="/a/">One</a>', ""],
  ]) {
    const page = open(`<div id="part">${links}</div>`);
    await load("app/focus.js");
    const part = page.at("#part");
    part.querySelectorAll("a")[1].focus();
    fire(part, "htmx:beforeSwap", { target: part });
    part.innerHTML = anew;
    fire(part, "htmx:afterSettle", { target: part });
    const has = document.activeElement;
    assert.equal(has === document.body ? "" : has.textContent, where);
  }
});

test("a change meanwhile waits until what was asked is answered", async () => {
  const page = open(
    '<form id="setup"><div id="inputs"><input name="rig.main_a" value="30"></div></form>',
  );
  const { ask } = await load("app/asks.js");
  const form = page.at("#setup");
  ask("add_load", "fan");
  const held = fire(form, "htmx:confirm", { elt: form });
  assert.ok(held.defaultPrevented);
});

test("figures typed while an answer was under way are put back", async () => {
  const page = open(
    '<form id="setup"><div id="inputs"><input name="rig.main_a" value="30"></div></form>',
  );
  await load("app/asks.js");
  const form = page.at("#setup");
  fire(form, "htmx:beforeRequest", { elt: form, xhr: {} });
  page.at("input").value = "50";
  fire(form, "htmx:beforeSwap", { requestConfig: { elt: form } });
  page.at("#inputs").innerHTML = '<input name="rig.main_a" value="30">';
  fire(form, "htmx:afterRequest", { elt: form, xhr: {} });
  assert.equal(page.at("input").value, "50");
});

test("a fault stands beside its input, and goes when it is mended", async () => {
  const page = open(
    '<div id="inputs"><input aria-describedby="f1">' +
    '<p id="f1" data-fault-for="supply.continuous_w"></p></div>' +
      '<div id="station"></div><p id="said"></p>',
  );
  await load("app/faults.js");
  const verdict = page.at("#station");
  verdict.innerHTML = '<li data-fault="supply.continuous_w" data-message="must be above 0"></li>';
  fire(verdict, "htmx:afterSwap", { target: verdict });
  assert.equal(page.at("#f1").textContent, "must be above 0");
  assert.equal(page.at("input").getAttribute("aria-invalid"), "true");
  verdict.innerHTML = '<span id="verdict-word">Holds</span><span id="iron-margin">14 %</span>';
  fire(verdict, "htmx:afterSwap", { target: verdict });
  assert.equal(page.at("#f1").textContent, "");
  assert.equal(page.at("input").hasAttribute("aria-invalid"), false);
  assert.equal(page.at("#said").textContent, "Holds 14 %");
});

test("the reading cursor walks the drawn start and stops at its ends", async () => {
  const rows = JSON.stringify([
    [0, 0, 10, 120],
    [290, 0.5, 60, 90],
    [580, 1, 12, 118],
  ]);
  const page = open(
    `<div id="plot" tabindex="0" data-series='${rows}'><svg><g id="plot-cursor" hidden></g>` +
    `</svg></div><p id="plot-reading"></p>`,
  );
  await load("app/cursor.js");
  const plot = page.at("#plot");
  press(plot, "ArrowRight");
  assert.equal(page.at("#plot-reading").textContent, "0.50 s  60.0 A  90.0 V");
  assert.equal(plot.getAttribute("aria-valuenow"), "50");
  press(plot, "ArrowRight", { shiftKey: true });
  assert.equal(page.at("#plot-reading").textContent, "1.00 s  12.0 A  118.0 V");
  press(plot, "Home");
  assert.equal(plot.getAttribute("aria-valuenow"), "0");
  assert.equal(page.at("#plot-cursor").hasAttribute("hidden"), false);
});

test("whoever was signed out keeps what was typed and is told", async () => {
  const page = open(
    '<p id="trouble" hidden></p><form id="form"><input value="typed"></form><p id="answer"></p>',
  );
  await load("app/trouble.js");
  const answer = '<div role="alert"><p>You were signed out.</p><a href="/in/">Sign in</a></div>';
  const requestConfig = { verb: "post", path: "/supplies/7/preview/" };
  const swap = (target, status) => {
    const xhr = { status, responseText: answer };
    const detail = { target, xhr, shouldSwap: true, requestConfig };
    fire(document.body, "htmx:beforeSwap", detail);
    return detail.shouldSwap;
  };
  assert.equal(swap(page.at("#answer"), 401), true);
  assert.equal(swap(page.at("#form"), 422), true);
  assert.equal(page.at("#trouble").hidden, true);
  assert.equal(swap(page.at("#form"), 401), false);
  assert.match(page.at("#trouble").textContent, /signed out/);
  assert.equal(page.at("#trouble a").getAttribute("href"), "/in/");
  assert.equal(page.at("#trouble").hidden, false);
  fire(document.body, "htmx:afterOnLoad", { xhr: { status: 200 }, requestConfig });
  assert.equal(page.at("#trouble").hidden, true);
});

test("trouble with a request is said until the same one goes well", async () => {
  const page = open('<p id="trouble" hidden></p>');
  await load("app/trouble.js");
  const save = { verb: "post", path: "/setups/save/" };
  const poll = { verb: "get", path: "/verdicts/jobs/7/" };
  fire(document.body, "htmx:sendError", { requestConfig: save });
  assert.match(page.at("#trouble").textContent, /does not answer/);
  assert.equal(page.at("#trouble").hidden, false);
  fire(document.body, "htmx:afterOnLoad", { xhr: { status: 200 }, requestConfig: poll });
  assert.equal(page.at("#trouble").hidden, false);
  fire(document.body, "htmx:afterOnLoad", { xhr: { status: 503 }, requestConfig: save });
  assert.equal(page.at("#trouble").hidden, false);
  fire(document.body, "htmx:afterOnLoad", { xhr: { status: 200 }, requestConfig: save });
  assert.equal(page.at("#trouble").hidden, true);
  fire(document.body, "htmx:responseError", { requestConfig: poll });
  assert.match(page.at("#trouble").textContent, /could not do that/);
  fire(document.body, "htmx:afterOnLoad", { xhr: { status: 200 }, requestConfig: save });
  assert.equal(page.at("#trouble").hidden, false);
});

test("a page that is left gives its searches up", async () => {
  const page = open('<div data-job="4"></div><div data-job="9"></div>');
  await load("app/leaving.js");
  window.dispatchEvent(new window.Event("pagehide"));
  const [url, body] = page.beacons[0];
  assert.equal(url, "/left/");
  assert.deepEqual(body, [
    ["csrfmiddlewaretoken", "t"],
    ["job", "4"],
    ["job", "9"],
  ]);
});

test("on a phone a section is its name until it is opened, and stays open", async () => {
  const page = open(
    '<main><section id="path" data-fold="The path"><h2>Path</h2><a id="in">x</a></section>' +
    '<a id="to" href="#path">go</a></main>',
    { narrow: true },
  );
  await load("app/folds.js");
  const section = page.at("#path");
  assert.ok(section.classList.contains("folded"));
  const button = section.querySelector(".fold-button");
  assert.equal(button.textContent, "The path");
  button.click();
  assert.equal(button.getAttribute("aria-expanded"), "true");
  button.click();
  assert.ok(section.classList.contains("folded"));
  page.at("#to").click();
  assert.ok(!section.classList.contains("folded"));
  fire(section, "htmx:load", { elt: section });
  assert.ok(!section.classList.contains("folded"), "an answer of the server leaves it open");
});

test("at a desk nothing is folded", async () => {
  const page = open('<main><section data-fold="The path"></section></main>');
  await load("app/folds.js");
  assert.equal(page.at(".fold-button"), null);
});

test("parts of the path are moved and taken out by keys", async () => {
  const page = open(
    '<form id="setup"><div id="inputs"></div><svg id="path">' +
    '<g data-part="1" tabindex="0" aria-label="Cord, 10 AWG"></g></svg></form>',
  );
  await load("app/path.js");
  press(page.at("[data-part]"), "Delete");
  assert.deepEqual(page.fired, [["redraw", "path_op", "remove:1"]]);
});

// A browser's worker: what the page asks it, and a way to have it say something.
function aWorker(controller = {}) {
  const heard = {};
  const asked = [];
  const active = { postMessage: (data) => asked.push(data) };
  navigator.serviceWorker = {
    register: () => {},
    controller,
    ready: Promise.resolve({ active }),
    addEventListener: (name, act) => (heard[name] = act),
  };
  return { asked, says: (queued) => heard.message({ data: { queued } }) };
}

test("what waits on the device is said on the page, whoever it is of", async () => {
  const page = open('<nav></nav><p id="age" hidden></p><p id="trouble"></p>');
  document.body.dataset.made = String(Math.round(Date.now() / 1000));
  document.body.dataset.who = "ann";
  const worker = aWorker();
  await load("app/offline.js");
  await Promise.resolve();
  assert.deepEqual(worker.asked, [{ who: "ann" }]);
  const age = page.at("#age");
  for (const [queued, words] of [
    [
      { waiting: 2, refused: 0, others: 0 },
      /^2 readings or steps kept .* sent when the server answers/,
    ],
    [{ waiting: 0, refused: 1, others: 0 }, /^1 reading or step could not be taken/],
    [{ waiting: 0, refused: 0, others: 1 }, /of somebody else wait here/],
  ]) {
    worker.says(queued);
    assert.ok(!age.hidden);
    assert.match(age.textContent, words);
  }
  delete document.body.dataset.who;
  worker.says({ waiting: 1, refused: 0, others: 0 });
  assert.match(age.textContent, /Sign in to have them sent/);
  worker.says({ waiting: 0, refused: 0, others: 0 });
  assert.ok(age.hidden);
});

test("a page that no worker controls asks to be claimed", async () => {
  open('<nav></nav><p id="age" hidden></p>');
  const worker = aWorker(null);
  await load("app/offline.js");
  await Promise.resolve();
  assert.deepEqual(worker.asked, ["claim", "tell"]);
});

test("without network a page says how old it is", async () => {
  const page = open('<nav></nav><p id="age" hidden></p><p id="trouble"></p>', { online: false });
  document.body.dataset.made = String(Math.round(Date.now() / 1000) - 600);
  aWorker();
  await load("app/offline.js");
  fire(document, "DOMContentLoaded");
  assert.equal(page.at("#age").textContent, "No network. This page is 10 min old.");
  fire(document, "kept-here");
  assert.match(page.at("#age").textContent, /Stored on this device/);
});

test("what is waited for is told when its words change, not at each look", async () => {
  const page = open(
    '<p id="waits" role="status"></p><div id="place"><div data-waits>' +
    '<p>Number 2\n   in line</p></div></div>',
  );
  const { tell } = await load("app/waits.js");
  const told = [];
  const ear = {
    get textContent() {
      return told.at(-1) ?? "";
    },
    set textContent(words) {
      told.push(words);
    },
  };
  for (const next of [
    "<div data-waits><p>Number 2 in line</p></div>",
    "<div data-waits><label>Trying starts…</label><progress></progress></div>",
    "<div data-waits><label>Trying starts…</label><progress></progress></div>",
    "<p>Done.</p>",
  ]) {
    tell(document, ear);
    page.at("#place").innerHTML = next;
    fire(document, "htmx:afterSettle");
  }
  tell(document, ear);
  assert.deepEqual(told, ["Number 2 in line", "Trying starts…", ""]);
  page.at("#place").innerHTML = "<div data-waits><p>Once more</p></div>";
  fire(document, "htmx:afterSettle");
  assert.equal(page.at("#waits").textContent, "Once more");
});

test("a page from this device says its age when the network does not answer", async () => {
  const page = open('<nav></nav><p id="age" hidden></p>');
  aWorker();
  await load("app/offline.js");
  fire(document, "DOMContentLoaded");
  assert.ok(page.at("#age").hidden);
  document.body.dataset.old = "";
  fire(document, "DOMContentLoaded");
  assert.ok(!page.at("#age").hidden);
  assert.match(
    page.at("#age").textContent,
    /^The network does not answer. This page is \d+ min old/,
  );
  page.window.dispatchEvent(new page.window.Event("online"));
  assert.match(page.at("#age").textContent, /^The network is back; reload the page/);
});

const RAIL =
  '<form id="setup"><div class="rail"><button class="rail-handle" aria-expanded="false">' +
  '</button><div id="rail-body"><div id="inputs">' +
  '<input type="hidden" name="document" value="1"><input type="hidden" name="rig_pk" value="7">' +
  '<input type="hidden" name="rig_version" value="1">' +
  '<input type="hidden" name="supply_pk" value="">' +
  '<input type="hidden" name="supply_version" value="">' +
  '<details id="group-supply"><summary>Supply</summary>' +
  '<input name="supply.breaker_a" value="30"></details>' +
  '<button type="button" id="undo" hidden>Undo</button></div></div></div></form>';

test("each change is a step back, and a step back is none", async () => {
  const page = open(RAIL);
  await load("app/asks.js");
  const form = page.at("#setup");
  const answered = async (xhr, now) => {
    page.at("[name=document]").value = now;
    fire(form, "htmx:afterRequest", { elt: form, xhr });
    await turn();
  };
  for (const [before, after] of [
    ["1", "2"],
    ["2", "3"],
  ]) {
    assert.equal(page.at("[name=document]").value, before);
    fire(form, "htmx:beforeRequest", { elt: form, xhr: {} });
    await answered({}, after);
  }
  assert.equal(page.at("#undo").hidden, false);
  let xhr;
  htmx.trigger = (element) => {
    xhr = { undo: element.querySelector(":scope > input[name=undo]")?.value };
    fire(element, "htmx:beforeRequest", { elt: element, xhr });
  };
  page.at("#undo").click();
  assert.equal(xhr.undo, "1");
  assert.equal(page.at("[name=document]").value, "2", "what was before the last change is sent");
  await answered(xhr, "2");
  page.at("#undo").click();
  assert.equal(page.at("[name=document]").value, "1");
  await answered(xhr, "1");
  assert.equal(page.at("#undo").hidden, true);
});

test("the rail is pulled up by its handle, and put down by Escape", async () => {
  const page = open(RAIL);
  await load("app/rail.js");
  const handle = page.at(".rail-handle");
  assert.equal(page.at("#rail-body").inert, true);
  handle.click();
  assert.equal(handle.getAttribute("aria-expanded"), "true");
  assert.equal(page.at("#rail-body").inert, false);
  press(document.body, "Escape");
  assert.equal(handle.getAttribute("aria-expanded"), "false");
});

test("what was opened in the rail is open again over an answer", async () => {
  const page = open(RAIL);
  await load("app/rail.js");
  const fold = page.at("#group-supply");
  fold.open = true;
  fold.dispatchEvent(new window.Event("toggle"));
  const inputs = page.at("#inputs");
  inputs.innerHTML = '<details id="group-supply"></details><details id="group-path"></details>';
  fire(inputs, "htmx:oobAfterSwap", { target: inputs });
  assert.equal(page.at("#group-supply").open, true);
  assert.equal(page.at("#group-path").open, false);
});

test("? explains the words of the page, and all of them on demand", async () => {
  const page = open(
    '<main>The iron margin of this setup</main><div id="help"><dl id="glossary">' +
    '<dt data-term="iron margin">Iron margin</dt><dd>a</dd>' +
      '<dt data-term="leg">Leg</dt><dd>b</dd></dl><button id="all-words" hidden></button></div>',
  );
  await load("app/glossary.js");
  const event = new window.Event("beforetoggle");
  event.newState = "open";
  page.at("#help").dispatchEvent(event);
  const hidden = () => [...document.querySelectorAll("#glossary dt")].map((term) => term.hidden);
  assert.deepEqual(hidden(), [false, true]);
  page.at("#all-words").click();
  assert.deepEqual(hidden(), [false, false]);
});
