// Where the keys were stays where they were when a part of the page is drawn anew: htmx finds what
// has an id again, this what has none by its place and its words.
const FOCUSABLE = "a[href], button, input:not([type=hidden]), select, summary, textarea";
const kept = new WeakMap();
const same = (one, other) =>
  one?.tagName === other.tagName && one.textContent.trim() === other.textContent.trim();

document.addEventListener("htmx:beforeSwap", ({ detail: { target } }) => {
  const had = document.activeElement;
  if (!had || had.id || had === target || !target?.contains(had)) return;
  const at = [...target.querySelectorAll(FOCUSABLE)].indexOf(had);
  kept.set(target, { had, at });
});
document.addEventListener("htmx:afterSettle", ({ detail: { target } }) => {
  const before = kept.get(target);
  kept.delete(target);
  if (!before || document.activeElement !== document.body) return;
  const now = [...target.querySelectorAll(FOCUSABLE)];
  const found = same(now[before.at], before.had)
    ? now[before.at]
    : now.find((one) => same(one, before.had));
  found?.focus({ preventScroll: true });
});
