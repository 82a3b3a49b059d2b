// A photograph or a sound that cannot be sent waits on this device, with whatever was typed beside
// it, on the page where it was taken; it is gone from here only when the server has read it.
const KEPT = "photographs";
const MAX = 12;
const WHO = "/account/who/";
const PATIENCE_MS = 4000;
const SENT = "photograph-sent";
const SENSES = new RegExp(
  "^(/log/\\d+/)(?:display|sound)/$|^(/rigs/\\d+/plate/)photo/$|^(/supplies/\\d+/)plate/$",
);
const UNSAID = ["csrfmiddlewaretoken", "once", "kept"];

const who = () => document.body.dataset.who ?? "";
const addressOf = (form, button) =>
  new URL(button?.getAttribute("formaction") ?? form.action, location.href).pathname;
const keyOf = (id) => `/${KEPT}/${id}`;

// Which of a page's forms and buttons would send to an address.
function asker(path) {
  const buttons = [...document.querySelectorAll("form button:not([type=button])")];
  return buttons.find((button) => button.form && addressOf(button.form, button) === path);
}

async function isThere() {
  try {
    const answer = await fetch(WHO, {
      cache: "no-store",
      signal: AbortSignal.timeout(PATIENCE_MS),
    });
    if (answer.status !== 200 || answer.redirected || !answer.headers.get("X-Request-ID"))
      return false;
    return (await answer.json()).who === who();
  } catch {
    return false;
  }
}

// What is kept of a form: its file, and what was typed beside it.
async function keep(path, form) {
  const kept = await caches.open(KEPT);
  if ((await kept.keys()).length >= MAX) return null;
  const id = `${Date.now()}`;
  const body = new FormData(form);
  UNSAID.forEach((name) => body.delete(name));
  const about = {
    "X-Path": path,
    "X-Who": who(),
    "X-At": id,
    "X-Kind": form.elements.kind?.value ?? "",
  };
  const made = new Response(body);
  about["Content-Type"] = made.headers.get("Content-Type");
  await kept.put(keyOf(id), new Response(await made.blob(), { headers: about }));
  return id;
}

async function all() {
  const kept = await caches.open(KEPT);
  const found = await Promise.all(
    (await kept.keys()).map(async (key) => ({ key, held: await kept.match(key) })),
  );
  return found
    .map(({ key, held }) => ({
      key,
      held,
      path: held.headers.get("X-Path"),
      at: Number(held.headers.get("X-At")),
      who: held.headers.get("X-Who"),
      kind: held.headers.get("X-Kind"),
    }))
    .filter((one) => one.who === who());
}

// Puts a kept one back into the form it came from, and sends it.
async function read({ held, path, at }, button) {
  const typed = await held.clone().formData();
  for (const [name, value] of typed) {
    const field = button.form.elements[name];
    if (!field) continue;
    if (typeof value === "string") {
      if (field.type !== "checkbox") field.value = value;
    } else if (value.size) {
      const carried = new DataTransfer();
      carried.items.add(value);
      field.files = carried.files;
    }
  }
  sessionStorage.setItem(SENT, `${path} ${at}`);
  button.form.dataset.goes = "1";
  button.form.requestSubmit(button);
}

function line(one) {
  const place = document.createElement("p");
  const [, ...pages] = SENSES.exec(one.path);
  const page = pages.find(Boolean);
  const what = one.path.endsWith("/sound/") ? "recording" : "photograph";
  const time = new Date(one.at).toLocaleString([], { dateStyle: "short", timeStyle: "short" });
  place.append(`A ${what} of ${time} waits on this device. `);
  const asks = location.pathname.startsWith(page) ? asker(one.path) : null;
  const button = (asks?.form.elements.kind?.value ?? "") === one.kind ? asks : null;
  const go = document.createElement(button ? "button" : "a");
  go.className = "btn min-h-11";
  go.textContent = button ? "Read it now" : "Go to it";
  if (button) go.addEventListener("click", () => read(one, button));
  else go.href = one.kind ? `${page}?kind=${one.kind}` : page;
  const drop = document.createElement("button");
  drop.className = "btn min-h-11";
  drop.textContent = "Delete it";
  drop.addEventListener("click", async () => {
    await (await caches.open(KEPT)).delete(one.key);
    await tell();
  });
  for (const each of [go, drop]) {
    if (each.tagName === "BUTTON") each.type = "button";
    each.setAttribute("aria-label", `${each.textContent}: ${what} of ${time}`);
    place.append(each, " ");
  }
  return place;
}

export async function tell(words = "") {
  const place = document.getElementById("photographs");
  const found = who() ? await all() : [];
  place.hidden = !found.length && !words;
  place.replaceChildren(...(words ? [words] : []), ...found.map(line));
}

// The server drew the form anew under the address that it was sent to: it was read.
async function settle() {
  const [path, at] = (sessionStorage.getItem(SENT) ?? "").split(" ");
  sessionStorage.removeItem(SENT);
  if (path === location.pathname && asker(path)) await (await caches.open(KEPT)).delete(keyOf(at));
}

export async function sending(event) {
  const { target: form, submitter: button } = event;
  const path = addressOf(form, button);
  if (!SENSES.test(path) || form.dataset.goes) return;
  const file = [...form.elements].find((one) => one.type === "file" && one.files.length);
  if (!file || !who()) return;
  event.preventDefault();
  const id = await keep(path, form);
  if (!(await isThere())) {
    if (id !== null) file.value = "";
    const why = navigator.onLine ? "It cannot be sent now" : "No network";
    const full = `${why}, and ${MAX} wait here: read or delete one first. `;
    await tell(id === null ? full : `${why}: kept. `);
    return;
  }
  if (id !== null) sessionStorage.setItem(SENT, `${path} ${id}`);
  form.dataset.goes = "1";
  form.requestSubmit(button);
}

if ("caches" in window && document.getElementById("photographs")) {
  document.addEventListener("submit", sending);
  window.addEventListener("pageshow", () => {
    document.querySelectorAll("form[data-goes]").forEach((form) => delete form.dataset.goes);
    settle().then(() => tell());
  });
}
