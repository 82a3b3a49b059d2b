// Work that is looked after again and again is told when its words change, not at every look.
export function waitingWords(root) {
  return [...root.querySelectorAll("[data-waits] :is(p, label, h1)")]
    .map((place) => place.textContent.replace(/\s+/g, " ").trim())
    .join(" ");
}
export function tell(root, place) {
  const words = waitingWords(root);
  if (place && place.textContent !== words) place.textContent = words;
}
document.addEventListener("htmx:afterSettle", () =>
  tell(document, document.getElementById("waits")),
);
