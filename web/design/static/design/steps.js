// A wait of a step counted down, said at its end.
"use strict";

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-count]");
  if (!button) return;
  const place = button.closest("[data-wait]");
  const until = Date.now() + Number(place.dataset.wait) * 1000;
  const shown = place.querySelector(".figure");
  button.hidden = true;
  const tick = () => {
    const left = Math.max(Math.ceil((until - Date.now()) / 1000), 0);
    shown.textContent = `${Math.floor(left / 60)}:${String(left % 60).padStart(2, "0")}`;
    if (left) setTimeout(tick, 250);
    else document.getElementById("said").textContent = "The wait is over.";
  };
  tick();
});
