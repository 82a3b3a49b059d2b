// A slider says where it stands. The neighbour on the pitch is dragged; the field beside says the same and takes keys.
"use strict";

document.addEventListener("input", (event) => {
  if (event.target.type === "range")
    event.target.parentElement.querySelector("[data-stands]").textContent = event.target.value;
});

let draggedEar = false;
const earAt = (event) => {
  const pitch = document.getElementById("pitch"),
    box = pitch.getBoundingClientRect();
  const x = ((event.clientX - box.left) / box.width) * 300 - 150;
  return Math.max(Math.abs(x) / Number(pitch.dataset.scale), 1) * Number(pitch.dataset.perM);
};
document.addEventListener("pointerdown", (event) => {
  draggedEar = event.target.id === "ear-mark";
});
document.addEventListener("pointermove", (event) => {
  if (!draggedEar) return;
  const field = document.getElementById("ear");
  field.value = Math.round(earAt(event));
  const pitch = document.getElementById("pitch");
  const metres = Number(field.value) / Number(pitch.dataset.perM);
  document.getElementById("ear-mark").setAttribute("cx", metres * Number(pitch.dataset.scale));
});
document.addEventListener("pointerup", () => {
  if (draggedEar) document.getElementById("noise-form").requestSubmit();
  draggedEar = false;
});
