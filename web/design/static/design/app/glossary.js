// The words that ? explains: those the page uses, all of them on demand.
const help = document.getElementById("help");

function inUse() {
  const text = [...document.querySelectorAll("main, .rail")]
    .map((part) => part.textContent)
    .join(" ")
    .toLowerCase();
  let hidden = 0;
  for (const term of document.querySelectorAll("#glossary dt")) {
    const used = text.includes(term.dataset.term.toLowerCase());
    term.hidden = !used;
    term.nextElementSibling.hidden = !used;
    hidden += !used;
  }
  document.getElementById("all-words").hidden = !hidden;
}

help?.addEventListener("beforetoggle", (event) => {
  if (event.newState === "open") inUse();
});
document.getElementById("all-words")?.addEventListener("click", (event) => {
  for (const part of document.querySelectorAll("#glossary > *")) part.hidden = false;
  event.target.hidden = true;
});
