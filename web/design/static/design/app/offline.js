// Without network: pages kept on this device say how old they are, presses wait here and are
// sent later.
import { trouble } from "./trouble.js";

let back = false;
const STORED = "pages-stored";
const MAX_TRIES = 10;
const SETTLED_MS = 2500; // the page itself comes first
const AGAIN_MS = 15_000; // what could not be stored is tried again while the page is open
const MAX_ROUNDS = 8;

function network() {
  if (!navigator.onLine) return "No network";
  return back ? "The network is back; reload the page" : "The network does not answer";
}
// What waits on this device, as the worker told it last: shown on whatever page is open.
let waits = { waiting: 0, refused: 0, others: 0 };
const count = (n) => `${n} reading${n === 1 ? "" : "s"} or step${n === 1 ? "" : "s"}`;
export function waitingWords({ waiting, refused, others }, signedIn) {
  const said = [];
  if (waiting)
    said.push(
      signedIn
        ? `${count(waiting)} kept on this device; sent when the server answers.`
        : `${count(waiting)} kept on this device. Sign in to have them sent.`,
    );
  if (others) said.push(`${count(others)} of somebody else wait here until they sign in.`);
  if (refused)
    said.push(
      `${count(refused)} could not be taken: what they belong to is gone, full or not yours to ` +
        "change. They stay on this device.",
    );
  return said.join(" ");
}

function sayAge() {
  const place = document.getElementById("age");
  const old = Math.round(Date.now() / 1000 - Number(document.body.dataset.made));
  const minutes = Math.round(old / 60);
  const kept = new URLSearchParams(location.search).has("kept");
  const fresh = navigator.onLine && !("old" in document.body.dataset);
  const words = waitingWords(waits, Boolean(document.body.dataset.who));
  place.hidden = fresh && !kept && !words;
  const aged = minutes < 1 ? "of this minute" : `${minutes} min old`;
  const age = `${network()}. This page is ${aged}.`;
  const held = words || (kept ? "Stored on this device; it is sent when the network is back." : "");
  place.textContent = [held, fresh ? "" : age].filter(Boolean).join(" ");
}
if ("serviceWorker" in navigator && document.querySelector("nav")) {
  navigator.serviceWorker.register("/sw.js");
  window.addEventListener("online", () => {
    back = true;
    sayAge();
    navigator.serviceWorker.controller?.postMessage("send");
  });
  window.addEventListener("offline", sayAge);
  navigator.serviceWorker.addEventListener("message", (event) => {
    if (!event.data?.queued) return;
    waits = event.data.queued;
    sayAge();
  });
  navigator.serviceWorker.ready.then(({ active }) => {
    // The worker takes over the pages that stand there when it begins. One that was still loading
    // asks for itself, or nothing of it would be kept without network.
    if (!navigator.serviceWorker.controller) active?.postMessage("claim");
    const { who } = document.body.dataset;
    active?.postMessage(who && navigator.onLine ? { who } : "tell");
  });
  document.addEventListener("DOMContentLoaded", sayAge);
  document.addEventListener("kept-here", () => {
    trouble("");
    const place = document.getElementById("age");
    place.hidden = false;
    place.textContent = "Stored on this device; it is sent when the network is back.";
  });
  document.addEventListener("submit", (event) => {
    if (!event.target.action?.endsWith("/account/sign-out/")) return;
    navigator.serviceWorker.controller?.postMessage("leave");
    localStorage.removeItem(STORED);
  });
}

// Opening a setup once stores its Now, its log, its steps and its card on this device.
const COMPUTING = [202, 503];
async function storePages(pk, round = 1) {
  const today = new Date().toDateString();
  const stamps = JSON.parse(localStorage.getItem(STORED) ?? "{}");
  if (stamps[pk] === today) return;
  const pages = await caches.open("pages");
  const paths = [
    `/now/${pk}/`,
    `/now/${pk}/table/`,
    `/log/${pk}/`,
    `/steps/${pk}/`,
    `/steps/${pk}/?all=1&list=tripped`,
  ];
  let whole = true;
  for (const path of [...paths, `/order/${pk}/card-a6.pdf`]) {
    try {
      let answer = await fetch(path);
      for (let tries = 0; COMPUTING.includes(answer.status) && tries < MAX_TRIES; tries += 1) {
        await answer.text(); // being computed: a body that nobody reads keeps its connection
        await new Promise((done) => setTimeout(done, 1000));
        answer = await fetch(path);
      }
      if (answer.status === 200 && !answer.redirected) {
        await pages.put(path, answer);
        continue;
      }
      await answer.text();
    } catch {
      // one page that does not come keeps no other from being stored
    }
    whole = false;
  }
  if (whole) localStorage.setItem(STORED, JSON.stringify({ ...stamps, [pk]: today }));
  else if (round < MAX_ROUNDS) setTimeout(() => storePages(pk, round + 1), AGAIN_MS);
}
const opened = document.querySelector("#inputs [name=saved]")?.value;
if (opened && "caches" in window && "serviceWorker" in navigator)
  navigator.serviceWorker.ready.then(() =>
    setTimeout(() => storePages(opened).catch(() => {}), SETTLED_MS),
  );
