// A fault of the answer stands beside its input; the verdict is said to who listens.

export function showFaults(target) {
  document.querySelectorAll("#inputs [data-fault-for]").forEach((place) => {
    place.textContent = "";
    const input = document.querySelector(`[aria-describedby="${place.id}"]`);
    if (input) input.removeAttribute("aria-invalid");
  });
  target.querySelectorAll("[data-fault]").forEach((fault) => {
    const place = document.querySelector(`[data-fault-for="${CSS.escape(fault.dataset.fault)}"]`);
    if (!place || place.textContent) return;
    place.textContent = fault.dataset.message;
    const input = document.querySelector(`[aria-describedby="${place.id}"]`);
    if (!input) return;
    input.setAttribute("aria-invalid", "true");
    for (let at = input.closest("details"); at; at = at.parentElement?.closest("details"))
      at.open = true;
  });
}

document.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target.id !== "station") return;
  showFaults(event.detail.target);
  document.getElementById("said").textContent = ["verdict-word", "iron-margin"]
    .map((id) => document.getElementById(id)?.textContent ?? "")
    .join(" ");
});
