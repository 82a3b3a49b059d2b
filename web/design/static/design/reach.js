import { barPath } from "./bar.js";

// The map of a reach: what is under the cursor is said, and can be made a variant. Works by
// keys, too.
const cellAt = (row, column) =>
  document.querySelector(`[data-reach] rect[data-row="${row}"][data-column="${column}"]`);

// The bar at the point under the cursor: as thick as its margin, hatched where thin, broken
// where it fails.
function drawReachBar(state, margin) {
  const bar = document.getElementById("reach-bar"),
    path = bar.firstElementChild;
  bar.toggleAttribute("hidden", state === "none"); // an SVG element has no such property
  path.setAttribute(
    "class",
    { holds: "bar-iron", thin: "bar-thin", fails: "bar-fails" }[state] ?? "bar-iron",
  );
  path.setAttribute("d", barPath(state, margin));
}

function sayCell(cell) {
  document
    .querySelectorAll("[data-reach] rect.chosen")
    .forEach((other) => other.classList.remove("chosen"));
  cell.classList.add("chosen");
  document.getElementById("reach-words").textContent = cell.dataset.words;
  drawReachBar(cell.dataset.state, Number(cell.dataset.margin));
  const form = document.querySelector("[data-reach] form");
  form.elements.row.value = cell.dataset.row;
  form.elements.column.value = cell.dataset.column;
}

document.addEventListener("pointerover", (event) => {
  const cell = event.target.closest?.("[data-reach] rect[data-row]");
  if (cell && event.pointerType === "mouse") sayCell(cell);
});
document.addEventListener("click", (event) => {
  const cell = event.target.closest?.("[data-reach] rect[data-row]");
  if (cell) sayCell(cell);
});
document.addEventListener("keydown", (event) => {
  const map = event.target.closest?.("[data-reach] svg");
  const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [1, 0], ArrowDown: [-1, 0] }[
    event.key
  ];
  if (!map || !step) return;
  const now =
    map.querySelector("rect.chosen") ?? map.querySelector("rect[data-here]") ?? cellAt(0, 0);
  const next = cellAt(Number(now.dataset.row) + step[0], Number(now.dataset.column) + step[1]);
  event.preventDefault();
  if (next) sayCell(next);
});
