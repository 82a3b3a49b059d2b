// The rail: a sheet pulled up from the bottom on a narrow page; what was opened in it stays open
// over answers of the server and from station to station.
const WIDE = matchMedia("(min-width: 1024px)");
const KEPT = "rail-open";
const opened = new Set(JSON.parse(sessionStorage.getItem(KEPT) ?? "[]"));

const rail = () => document.querySelector(".rail");
const handle = () => document.querySelector(".rail-handle");

function setSheet(open) {
  if (!handle()) return;
  handle().setAttribute("aria-expanded", String(open));
  rail().classList.toggle("rail-up", open);
  document.getElementById("rail-body").inert = !open && !WIDE.matches;
}
const isUp = () => rail()?.classList.contains("rail-up") ?? false;

function openAgain(root) {
  for (const fold of root.querySelectorAll("#inputs details[id]"))
    fold.open = opened.has(fold.id) || !!fold.querySelector("[aria-invalid=true]");
  setSheet(isUp());
}

document.addEventListener(
  "toggle",
  (event) => {
    const fold = event.target;
    if (!fold.matches?.("#inputs details[id]")) return;
    opened[fold.open ? "add" : "delete"](fold.id);
    sessionStorage.setItem(KEPT, JSON.stringify([...opened]));
  },
  { capture: true },
);
document.addEventListener("click", (event) => {
  if (event.target.closest(".rail-handle")) setSheet(!isUp());
});
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && isUp() && !WIDE.matches) {
    setSheet(false);
    handle().focus();
  }
});
document.addEventListener("htmx:oobAfterSwap", (event) => {
  if (event.detail.target.id === "inputs") openAgain(document);
});
// What opens a fold from outside: a link to it, or a fault in it.
export function openRail(target) {
  const fold = target?.closest("#inputs");
  if (!fold) return;
  setSheet(true);
  for (let at = target.closest("details"); at; at = at.parentElement?.closest("details"))
    at.open = true;
}
document.addEventListener("click", (event) => {
  const link = event.target.closest('a[href^="#"]');
  if (link && link.hash.length > 1) openRail(document.getElementById(link.hash.slice(1)));
});
WIDE.addEventListener("change", () => setSheet(isUp()));
openAgain(document);
