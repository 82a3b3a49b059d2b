import assert from "node:assert/strict";
import { test } from "node:test";
import { fire, load, open, press, turn } from "./page.js";

test("a gate passes within its range, both ends in it, and by its words", async () => {
  open("");
  const { stepPasses } = await load("steps.js");
  const volts = { low: 114, high: 126, reading: "Volts", unit: "V" };
  for (const [read, passes] of [
    ["114", true],
    ["126", true],
    ["113.9", false],
    ["120,5", true],
    ["", false],
    ["about", false],
  ])
    assert.equal(stepPasses(volts, read), passes, read);
  assert.ok(stepPasses({ words: "cold" }, " Cold "));
  assert.ok(!stepPasses({ words: "cold" }, "warm"));
  assert.ok(stepPasses(undefined, ""));
});

test("a quarter of the day is a time, and stays in the day", async () => {
  open("");
  const { clockOf } = await load("order.js");
  assert.deepEqual([0, 1, 50, 95, 96, -3].map(clockOf), [
    "00:00",
    "00:15",
    "12:30",
    "23:45",
    "23:45",
    "00:00",
  ]);
});

test("the bar is broken where it fails and thinner the less is left", async () => {
  open("");
  const { barPath } = await load("bar.js");
  assert.equal(barPath("fails", -0.2).match(/Z/g).length, 2);
  assert.equal(barPath("holds", 0.5).match(/Z/g).length, 1);
  const waist = (margin) => Number(barPath("holds", margin).match(/90 ([\d.]+) 120/)[1]);
  assert.ok(waist(0.05) > waist(0.2) && waist(0.2) > waist(0.5));
  assert.equal(waist(0.5), waist(0.9), "more than half is drawn no thicker");
});

test("what a meter caught is said in words", async () => {
  open("");
  const { wordsOf } = await load("meter.js");
  const start = { what: "start", peak_a: 61.26, lowest_v: 101.4, after_a: 13, outcome: "starts" };
  assert.equal(wordsOf(start), "61.3 A at most, 101 V at the dip, 13.0 A after");
  assert.match(wordsOf({ ...start, outcome: "trips" }), /then nothing was fed$/);
  const load_ = { what: "load", before_a: 10, after_a: 22.5, outcome: "starts" };
  assert.equal(wordsOf(load_), "22.5 A, of them 12.5 A new");
});

test("Enter goes through a plate's fields and reads it after the last", async () => {
  const page = open(
    '<form id="plate"><input name="a"><select name="b"></select></form><p id="reading"></p>',
  );
  let shown = 0;
  for (const part of ["#plate input", "#plate select", "#reading"])
    page.at(part).scrollIntoView = () => (shown += part === "#reading" ? 1 : 0);
  await load("plate.js");
  page.at("input").focus();
  press(page.at("input"), "Enter");
  assert.equal(document.activeElement.name, "b");
  press(page.at("select"), "Enter");
  assert.equal(shown, 1);
});

test("a slider says where it stands, a mark on the pitch moves by keys", async () => {
  const page = open(
    '<form id="noise-form"><p><input type="range" id="heat" min="0" max="9"><b data-stands></b>' +
    '</p>' +
      '<input id="across" type="number" value="3"><svg id="pitch">' +
      '<g class="mark" tabindex="0" data-x="across"></g></svg></form>',
  );
  let drawn = 0;
  page.at("form").requestSubmit = () => (drawn += 1);
  await load("hours.js");
  page.at("#heat").value = "7";
  fire(page.at("#heat"), "input");
  assert.equal(page.at("[data-stands]").textContent, "7");
  press(page.at(".mark"), "ArrowRight");
  press(page.at(".mark"), "ArrowUp");
  assert.equal(page.at("#across").value, "4");
  assert.equal(drawn, 2);
});

test("a key pressed while the pitch is drawn anew leaves no page, and counts then", async () => {
  const page = open(
    '<section class="htmx-added"><form id="noise-form">' +
    '<input id="across" type="number" value="3">' +
      '<svg id="pitch"><g class="mark" tabindex="0" data-x="across"></g></svg></form></section>',
  );
  let drawn = 0;
  page.at("form").requestSubmit = () => (drawn += 1);
  await load("hours.js");
  press(page.at(".mark"), "ArrowRight");
  press(page.at(".mark"), "ArrowRight");
  assert.equal(drawn, 0);
  page.at("section").classList.remove("htmx-added");
  fire(page.at("section"), "htmx:afterSettle");
  fire(page.at("section"), "htmx:afterSettle");
  assert.equal(drawn, 1);
  assert.equal(page.at("#across").value, "5");
});

const RIG = `<div id="rig" data-edit="/edit/" data-undo="/undo/" data-paste="/paste/"></div>
  <div id="rig-answer"></div>
  <input id="rig-version" value="3"><table id="rig-table"><tbody>
  <tr data-load="ac" data-at="0"><td><input data-c="running_a" value="13"></td>
    <td><input data-c="lra_a" value="60"></td></tr>
  <tr data-load="fan" data-at="1"><td><input data-c="running_a" value="1"></td>
    <td><input data-c="lra_a" value=""></td></tr>
  </tbody></table>`;

test("a cell of the rig's table is sent once, with the version it was read in", async () => {
  const page = open(RIG);
  await load("grid.js");
  const cell = page.at("[data-load=ac] [data-c=running_a]");
  cell.focus();
  cell.value = "14";
  press(cell, "Enter");
  fire(cell, "change");
  await turn();
  assert.deepEqual(page.sent, [
    ["POST", "/edit/", { load: "ac", column: "running_a", value: "14", version: "3" }],
  ]);
  assert.equal(document.activeElement.closest("tr").dataset.load, "fan");
});

test("a refused cell is marked, and Escape takes back what was typed", async () => {
  const page = open(RIG);
  await load("grid.js");
  page.noted.answer = (target) => (target.innerHTML = "<p data-refused>must be a number</p>");
  const cell = page.at("[data-load=ac] [data-c=lra_a]");
  cell.focus();
  cell.value = "sixty";
  fire(cell, "change");
  await turn();
  assert.equal(cell.getAttribute("aria-invalid"), "true");
  press(cell, "Escape");
  assert.equal(cell.value, "60");
  assert.equal(cell.hasAttribute("aria-invalid"), false);
});

test("arrows walk between cells, and a pasted block is sent from where it was put", async () => {
  const page = open(RIG);
  await load("grid.js");
  const first = page.at("[data-load=ac] [data-c=running_a]");
  first.focus();
  press(first, "ArrowDown");
  assert.equal(document.activeElement.closest("tr").dataset.load, "fan");
  const paste = new window.Event("paste", { bubbles: true, cancelable: true });
  paste.clipboardData = { getData: () => "1\t2\n3\t4" };
  first.dispatchEvent(paste);
  await turn();
  assert.deepEqual(page.sent[0][1], "/paste/");
  assert.deepEqual(page.sent[0][2], {
    row: "0",
    column: "running_a",
    value: "1\t2\n3\t4",
    version: "3",
  });
});

test("a press of a load changes what is on, by mode and for what is always on", async () => {
  open("");
  const { keyOf, pressed } = await load("now.js");
  assert.deepEqual(pressed({}, "tv", "on", false), { tv: null });
  assert.deepEqual(pressed({ tv: null }, "tv", "off", false), {});
  assert.deepEqual(pressed({}, "roof", "low-cool", false), { roof: "low-cool" });
  assert.deepEqual(pressed({}, "fridge", "off", true), { fridge: "off" });
  assert.deepEqual(pressed({ fridge: "off" }, "fridge", "on", true), { fridge: null });
  assert.equal(
    keyOf({ tv: null, "a=b": "off", roof: "high-cool" }),
    "a=b=off\nroof=high-cool\ntv=",
  );
});

test("of one load's presses the last counts, none where the server has it so", async () => {
  open("");
  const { queued } = await load("now.js");
  let waiting = queued([], "tv", "on", "off");
  waiting = queued(waiting, "roof", "high-cool", "off");
  assert.deepEqual(
    waiting.map((press) => press.load),
    ["tv", "roof"],
  );
  assert.deepEqual(queued(waiting, "tv", "off", "off"), [{ load: "roof", mode: "high-cool" }]);
  waiting = queued(waiting, "roof", "low-cool", "off");
  assert.deepEqual(waiting.at(-1), { load: "roof", mode: "low-cool" });
  assert.equal(waiting.length, 2);
});
