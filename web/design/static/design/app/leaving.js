// A page that is left asks for nothing any more: its searches end, unless another page still
// waits for them.
window.addEventListener("pagehide", () => {
  const jobs = [...document.querySelectorAll("[data-job]")].map((place) => place.dataset.job);
  if (!jobs.length) return;
  const body = new FormData();
  body.append(
    "csrfmiddlewaretoken",
    JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"],
  );
  jobs.forEach((job) => body.append("job", job));
  navigator.sendBeacon(document.body.dataset.left, body);
});
