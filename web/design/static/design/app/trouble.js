// What went wrong with any request is said on any page, until one goes well.
export function trouble(words) {
  const place = document.getElementById("trouble");
  place.textContent = words;
  place.hidden = !words;
}
document.addEventListener("htmx:sendError", (event) => {
  if (event.target.hasAttribute?.("data-quiet")) return; // it asks again by itself
  trouble("The server does not answer. What you typed is still here; try again in a moment.");
});
document.addEventListener("htmx:responseError", () =>
  trouble(
    "The server could not do that. What you typed is still here; reload if it happens again.",
  ),
);
document.addEventListener("htmx:afterOnLoad", (event) => {
  if (event.detail.xhr.status < 400) trouble("");
});
