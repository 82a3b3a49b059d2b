// What went wrong with a request is said on any page, until the same one goes well: a poll that
// succeeds beside it takes no word away before it is read.
let failed = "";
const asked = ({ detail }) => `${detail?.requestConfig?.verb} ${detail?.requestConfig?.path}`;

export function trouble(words) {
  const place = document.getElementById("trouble");
  place.textContent = words;
  place.hidden = !words;
}
document.addEventListener("htmx:sendError", (event) => {
  if (event.target.hasAttribute?.("data-quiet")) return; // it asks again by itself
  failed = asked(event);
  trouble("The server does not answer. What you typed is still here; try again in a moment.");
});
document.addEventListener("htmx:responseError", (event) => {
  failed = asked(event);
  trouble(
    "The server could not do that. What you typed is still here; reload if it happens again.",
  );
});
document.addEventListener("htmx:afterOnLoad", (event) => {
  if (event.detail.xhr.status < 400 && asked(event) === failed) trouble("");
});
// Who was signed out meanwhile is told so; where the answer would take what was typed away, it
// stands here instead.
document.addEventListener("htmx:beforeSwap", ({ detail }) => {
  if (detail.xhr.status !== 401 || !detail.target.querySelector("input, select, textarea")) return;
  detail.shouldSwap = false;
  failed = asked({ detail });
  const said = new DOMParser().parseFromString(detail.xhr.responseText, "text/html");
  const place = document.getElementById("trouble");
  place.replaceChildren(...said.querySelector("[role=alert]").childNodes);
  place.hidden = false;
});
