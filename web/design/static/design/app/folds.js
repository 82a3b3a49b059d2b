// On a phone a long page is a row of named folds: a section marked data-fold shows its name alone
// until it is opened. What was opened stays open over answers of the server; a link into a fold, or
// a fault in it, opens it.
const NARROW = matchMedia("(max-width: 639px)");
const opened = new Set();

const nameOf = (section) =>
  section.dataset.fold || section.querySelector("h2, legend")?.textContent.trim() || "More";
const keyOf = (section) => section.id || section.getAttribute("aria-labelledby") || nameOf(section);

function setFold(section, open) {
  section.classList.toggle("folded", !open);
  section.querySelector(":scope > .fold-button").setAttribute("aria-expanded", String(open));
}

function foldAll(root) {
  for (const section of root.querySelectorAll("[data-fold]")) {
    let button = section.querySelector(":scope > .fold-button");
    if (!NARROW.matches) {
      section.classList.remove("folded");
      button?.remove();
      continue;
    }
    if (!button) {
      button = document.createElement("button");
      button.type = "button";
      button.className = "fold-button";
      button.textContent = nameOf(section);
      const legend = section.querySelector(":scope > legend");
      if (legend) legend.after(button);
      else section.prepend(button);
    }
    setFold(section, opened.has(keyOf(section)) || !!section.querySelector("[aria-invalid=true]"));
  }
}

function openAround(target) {
  for (let at = target?.closest("[data-fold]"); at; at = at.parentElement?.closest("[data-fold]")) {
    opened.add(keyOf(at));
    if (at.classList.contains("folded")) setFold(at, true);
  }
}

document.addEventListener("click", (event) => {
  const button = event.target.closest(".fold-button");
  if (button) {
    const section = button.parentElement;
    const open = section.classList.contains("folded");
    opened[open ? "add" : "delete"](keyOf(section));
    setFold(section, open);
    return;
  }
  const link = event.target.closest('a[href^="#"]');
  if (link && link.hash.length > 1) openAround(document.getElementById(link.hash.slice(1)));
});
document.addEventListener("focusin", (event) => {
  if (!event.target.closest(".fold-button")) openAround(event.target);
});
document.addEventListener("htmx:load", (event) =>
  foldAll(event.detail.elt.parentElement || document),
);
NARROW.addEventListener("change", () => foldAll(document));
foldAll(document);
if (location.hash.length > 1) openAround(document.getElementById(location.hash.slice(1)));
