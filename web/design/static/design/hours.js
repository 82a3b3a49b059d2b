// A slider says where it stands. What is on the pitch is dragged or moved by arrow keys; the fields
// beside say the same.
document.addEventListener("input", (event) => {
  if (event.target.type === "range")
    event.target.parentElement.querySelector("[data-stands]").textContent = event.target.value;
});

const BOX = 300; // the drawing's width and height, its middle at 0 0
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
let dragged = null;

function pitchPoint(event) {
  const box = document.getElementById("pitch").getBoundingClientRect();
  return [
    ((event.clientX - box.left) / box.width) * BOX - BOX / 2,
    ((event.clientY - box.top) / box.height) * BOX - BOX / 2,
  ];
}

// Moves a mark by a way in the drawing, and its fields by the same way on the ground.
function moveMark(mark, fields, wayX, wayY) {
  const pitch = document.getElementById("pitch");
  const perUnit = Number(pitch.dataset.perM) / Number(pitch.dataset.scale);
  const [x, y] = mark.dataset.from.split(" ").map(Number);
  mark.setAttribute("transform", `translate(${x + wayX} ${mark.dataset.y ? y + wayY : y})`);
  for (const [axis, way] of [
    ["x", wayX],
    ["y", -wayY],
  ]) {
    const field = document.getElementById(mark.dataset[axis]);
    if (!field) continue;
    const wanted = Math.round(fields[axis] + way * perUnit);
    field.value = Math.min(Math.max(wanted, Number(field.min)), Number(field.max));
  }
}

const fieldsOf = (mark) => ({
  x: Number(document.getElementById(mark.dataset.x).value),
  y: mark.dataset.y ? Number(document.getElementById(mark.dataset.y).value) : 0,
});

// A form that has just come is htmx's only once it has settled: before, the browser would send it
// by itself and leave the page. What is asked for meanwhile is asked for then.
let waits = false;
function drawAgain() {
  const form = document.getElementById("noise-form");
  waits = form.closest(".htmx-added") !== null;
  if (!waits) form.requestSubmit();
}
document.addEventListener("htmx:afterSettle", () => {
  if (waits) drawAgain();
});

// The mark that had the focus has it again when it was drawn anew under it, until a person goes
// elsewhere: by pointer, or by a key that moves no mark.
let held = null;
document.addEventListener("focusin", (event) => {
  held = event.target.closest?.("#pitch .mark")?.id ?? held;
});
document.addEventListener("pointerdown", (event) => {
  if (!event.target.closest("#pitch .mark")) held = null;
});
document.addEventListener("keydown", (event) => {
  if (!ARROWS[event.key]) held = null;
});
for (const drawn of ["htmx:afterSwap", "htmx:afterSettle"])
  document.addEventListener(drawn, () => {
    const mark = held && document.getElementById(held);
    if (mark && mark !== document.activeElement) mark.focus({ preventScroll: true });
  });

document.addEventListener("pointerdown", (event) => {
  const mark = event.target.closest("#pitch .mark");
  if (!mark) return;
  event.preventDefault();
  mark.focus({ preventScroll: true });
  mark.dataset.from = mark
    .getAttribute("transform")
    .match(/-?[\d.]+/g)
    .join(" ");
  dragged = { mark, fields: fieldsOf(mark), at: pitchPoint(event), moved: false };
});
document.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  const [x, y] = pitchPoint(event);
  dragged.moved = true;
  moveMark(dragged.mark, dragged.fields, x - dragged.at[0], y - dragged.at[1]);
});
document.addEventListener("pointerup", () => {
  if (dragged?.moved) drawAgain();
  dragged = null;
});
document.addEventListener("keydown", (event) => {
  const mark = event.target.closest?.("#pitch .mark");
  const way = ARROWS[event.key];
  if (!mark || !way) return;
  event.preventDefault();
  for (const [axis, by] of [
    ["x", way[0]],
    ["y", way[1]],
  ]) {
    const field = document.getElementById(mark.dataset[axis]);
    if (field) field.value = Number(field.value) + by;
  }
  drawAgain();
});
