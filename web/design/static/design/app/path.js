// The parts of the path: a part or a gap opens the menu; keys and dragging do the same without it.
import { ask } from "./asks.js";

const pathMenu = { part: null, gap: null };

function openPathMenu(part, gap) {
  const menu = document.getElementById("part-menu");
  pathMenu.part = part;
  pathMenu.gap = gap;
  const name =
    part === null
      ? "Put a part in"
      : document.querySelector(`#path [data-part="${part}"]`).dataset.name;
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
  if (part && event.key === "Delete") {
    event.preventDefault();
    ask("path_op", `remove:${at}`);
  } else if (part && event.altKey && event.key === "ArrowUp" && at > 0) {
    event.preventDefault();
    ask("path_op", `move:${at}:${at - 1}`);
  } else if (part && event.altKey && event.key === "ArrowDown") {
    event.preventDefault();
    ask("path_op", `move:${at}:${at + 1}`);
  }
});

let draggedPart = null;
document.addEventListener("pointerdown", (event) => {
  const part = event.target.closest?.("#path [data-part]");
  draggedPart = part ? { at: Number(part.dataset.part), y: event.clientY } : null;
});
document.addEventListener("pointerup", (event) => {
  const from = draggedPart;
  draggedPart = null;
  if (!from) return;
  const rows = [...document.querySelectorAll("#path [data-part]")];
  const pitch = rows.length > 1 ? rows[1].offsetTop - rows[0].offsetTop : rows[0].offsetHeight;
  const by = Math.round((event.clientY - from.y) / pitch);
  const to = Math.min(Math.max(0, from.at + by), rows.length - 1);
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
