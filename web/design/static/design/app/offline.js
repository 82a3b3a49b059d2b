// Without network: pages kept on this device say how old they are, presses wait here and are sent later.
import { trouble } from "./trouble.js";

function sayAge() {
  const place = document.getElementById("age");
  const old = Math.round(Date.now() / 1000 - Number(document.body.dataset.made));
  const minutes = Math.round(old / 60);
  const kept = new URLSearchParams(location.search).has("kept");
  const silent = navigator.onLine && "old" in document.body.dataset;
  place.hidden = navigator.onLine && !kept && !silent;
  place.textContent = kept
    ? "Kept on this device; it is sent when the network is back."
    : `${silent ? "The network does not answer" : "No network"}. This page is ${minutes < 1 ? "of this minute" : `${minutes} min old`}.`;
}
if ("serviceWorker" in navigator && document.querySelector("nav")) {
  navigator.serviceWorker.register("/sw.js");
  window.addEventListener("online", () => {
    sayAge();
    navigator.serviceWorker.controller?.postMessage("send");
  });
  window.addEventListener("offline", sayAge);
  document.addEventListener("DOMContentLoaded", sayAge);
  document.addEventListener("kept-here", () => {
    trouble("");
    const place = document.getElementById("age");
    place.hidden = false;
    place.textContent = "Kept on this device; it is sent when the network is back.";
  });
  document.addEventListener("submit", (event) => {
    if (event.target.action?.endsWith("/account/sign-out/"))
      navigator.serviceWorker.controller?.postMessage("leave");
  });
}
