// The working table of a rig: arrow keys between cells, edits kept one after another, paste,
// moving, dragging, the drawer.
const rig = () => document.getElementById("rig");
const answer = () => document.getElementById("rig-answer");
const version = () => document.getElementById("rig-version").value;
const typed = (cell) => (cell.type === "checkbox" ? (cell.checked ? "on" : "") : cell.value);

// Edits are sent one after another: each needs the version the one before it made.
let queue = Promise.resolve();
let lastTry = null;

function send(url, values, target) {
  queue = queue
    .then(() =>
      htmx.ajax("POST", url, {
        target: target || answer(),
        swap: "innerHTML",
        values: { ...values, version: version() },
      }),
    )
    .catch(() => {});
  return queue;
}

function remember(cell) {
  cell.dataset.before = typed(cell);
}

function keepCell(cell) {
  const value = typed(cell);
  // Enter, and then the change event it causes
  if (cell.dataset.before === value || cell.dataset.sent === value) return;
  cell.dataset.sent = value;
  const row = cell.closest("[data-load]");
  lastTry = {
    url: rig().dataset.edit,
    values: {
      load: row ? row.dataset.load : "",
      column: cell.dataset.c || cell.dataset.panel,
      value,
    },
  };
  send(lastTry.url, lastTry.values).then(() => settle(cell));
}

// After an answer: mark a refused cell, or take the new value as the one to go back to.
function settle(cell) {
  const refused = answer().querySelector("[data-refused], [data-conflict]");
  if (!refused) delete cell.dataset.sent;
  if (refused) cell.setAttribute("aria-invalid", "true");
  else {
    cell.removeAttribute("aria-invalid");
    remember(cell);
  }
}

function spread() {
  const sums = {
    "[data-load-amps]": (id) => document.querySelector(`[data-amps="${CSS.escape(id)}"]`),
    "[data-group-amps]": (id) =>
      document.querySelector(`tbody[data-place="${CSS.escape(id)}"] > tr:first-child > td`),
  };
  for (const [holder, place] of Object.entries(sums)) {
    answer()
      .querySelectorAll(`${holder} i`)
      .forEach((item) => {
        const cell = place(item.dataset.id);
        if (!cell) return;
        if (holder === "[data-load-amps]") cell.textContent = item.textContent;
        else if (cell.firstChild) cell.firstChild.textContent = `${item.textContent} A`;
      });
  }
}

function focusCell(load, column) {
  const cell = document.querySelector(`[data-load="${CSS.escape(load)}"] [data-c="${column}"]`);
  if (cell) {
    cell.focus();
    if (cell.select) cell.select();
  }
}

function beside(cell, down, right) {
  const columns = [...cell.closest("tr").querySelectorAll("[data-c]")];
  if (right) {
    const next = columns[columns.indexOf(cell) + right];
    if (next) next.focus();
    return;
  }
  const rows = [...document.querySelectorAll("#rig-table [data-load]")];
  const row = rows[rows.indexOf(cell.closest("[data-load]")) + down];
  const next =
    row && (row.querySelector(`[data-c="${cell.dataset.c}"]`) || row.querySelector("[data-c]"));
  if (next) {
    next.focus();
    if (next.select) next.select();
  }
}

function moveLoad(cell, way) {
  const row = cell.closest("[data-load]");
  const places = [...row.querySelector('[data-c="place"]').options].map((o) => o.value);
  const now = row.querySelector('[data-c="place"]').value;
  const to = places[(places.indexOf(now) + way + places.length) % places.length];
  const column = cell.dataset.c;
  send(rig().dataset.edit, { load: row.dataset.load, column: "place", value: to }).then(() =>
    focusCell(row.dataset.load, column),
  );
}

document.addEventListener("focusin", (event) => {
  const cell = event.target.closest?.("[data-c], [data-panel], [data-detail]");
  if (cell && cell.dataset.before === undefined) remember(cell);
});

document.addEventListener("change", (event) => {
  const cell = event.target;
  if (cell.dataset.c) keepCell(cell);
  else if (cell.dataset.panel) keepCell(cell);
  else if (cell.dataset.detail) {
    const load = cell.closest("[data-drawer-load]").dataset.drawerLoad;
    const redraws = cell.dataset.detail === "start";
    send(rig().dataset.detail, { load, column: cell.dataset.detail, value: typed(cell) }).then(
      () => {
        const refused = answer().querySelector("[data-refused], [data-conflict]");
        cell.toggleAttribute("aria-invalid", Boolean(refused));
        document.getElementById("drawer-answer").textContent = refused
          ? refused.textContent.trim()
          : "Saved.";
        if (!refused && redraws) openDrawer(load);
      },
    );
  } else if (cell.form?.dataset.sends) {
    send(cell.form.dataset.sends, Object.fromEntries(new FormData(cell.form)));
  }
});

document.addEventListener("submit", (event) => {
  const form = event.target;
  if (!form.dataset.sends) return;
  event.preventDefault();
  send(form.dataset.sends, Object.fromEntries(new FormData(form)));
});

document.addEventListener("keydown", (event) => {
  if (
    (event.ctrlKey || event.metaKey) &&
    event.key.toLowerCase() === "z" &&
    !event.target.closest("input, textarea, select")
  ) {
    event.preventDefault();
    send(rig().dataset.undo, {});
    return;
  }
  const cell = event.target.closest?.("[data-c]");
  if (!cell) return;
  const list = cell.tagName === "SELECT";
  if (event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
    event.preventDefault();
    moveLoad(cell, event.key === "ArrowDown" ? 1 : -1);
  } else if (event.key === "Enter" && !list) {
    event.preventDefault();
    keepCell(cell);
    beside(cell, event.shiftKey ? -1 : 1, 0);
  } else if (event.key === "Escape") {
    if (cell.type === "checkbox") cell.checked = cell.dataset.before === "on";
    else cell.value = cell.dataset.before ?? cell.value;
    cell.removeAttribute("aria-invalid");
    delete cell.dataset.sent;
    answer().textContent = "";
  } else if (!list && !event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
    event.preventDefault();
    beside(cell, event.key === "ArrowDown" ? 1 : -1, 0);
  } else if (
    (event.key === "ArrowLeft" || event.key === "ArrowRight") &&
    !event.altKey &&
    !event.shiftKey
  ) {
    const text = !list && cell.type !== "checkbox";
    const edge =
      !text ||
      (event.key === "ArrowLeft"
        ? cell.selectionEnd === 0
        : cell.selectionStart === cell.value.length) ||
      (cell.selectionStart === 0 && cell.selectionEnd === cell.value.length);
    if (edge) {
      event.preventDefault();
      beside(cell, 0, event.key === "ArrowRight" ? 1 : -1);
    }
  }
});

document.addEventListener("paste", (event) => {
  const cell = event.target.closest?.("[data-c]");
  const text = event.clipboardData.getData("text/plain");
  if (!cell || !/[\t\n]/.test(text.trim())) return;
  event.preventDefault();
  send(rig().dataset.paste, {
    row: cell.closest("[data-load]").dataset.at,
    column: cell.dataset.c,
    value: text,
  });
});

let dragged = null;
document.addEventListener("dragstart", (event) => {
  const handle = event.target.closest?.(".handle");
  if (!handle) return;
  dragged = handle.closest("[data-load]").dataset.load;
  event.dataTransfer.effectAllowed = "move";
  event.dataTransfer.setData("text/plain", dragged);
});
document.addEventListener("dragover", (event) => {
  const group = dragged && event.target.closest?.("tbody[data-place]");
  if (!group) return;
  event.preventDefault();
  document.querySelectorAll("tbody.over").forEach((t) => t.classList.remove("over"));
  group.classList.add("over");
});
document.addEventListener("drop", (event) => {
  const group = dragged && event.target.closest?.("tbody[data-place]");
  if (!group) return;
  event.preventDefault();
  send(rig().dataset.edit, { load: dragged, column: "place", value: group.dataset.place });
  dragged = null;
});
document.addEventListener("dragend", () => {
  dragged = null;
  document.querySelectorAll("tbody.over").forEach((t) => t.classList.remove("over"));
});

function openDrawer(load) {
  const drawer = document.getElementById("drawer");
  htmx
    .ajax("GET", `${rig().dataset.drawer}?load=${encodeURIComponent(load)}`, {
      target: drawer,
      swap: "innerHTML",
    })
    .then(() => {
      if (!drawer.open) drawer.showModal();
    });
}

// On a phone a load is its name and its draw until it is unfolded; it stays so over answers.
const unfolded = new Set();

function unfold(row) {
  const open = unfolded.has(row.dataset.load);
  row.classList.toggle("unfolded", open);
  row.querySelector("[data-unfold]").setAttribute("aria-expanded", String(open));
}

document.addEventListener("htmx:load", () =>
  document.querySelectorAll("#rig-table [data-load]").forEach(unfold),
);

document.addEventListener("click", (event) => {
  const on = (selector) => event.target.closest(selector);
  const row = event.target.closest("[data-load]");
  if (on("[data-unfold]")) {
    const load = row.dataset.load;
    unfolded[unfolded.has(load) ? "delete" : "add"](load);
    unfold(row);
  } else if (on("[data-more]")) openDrawer(row.dataset.load);
  else if (on("[data-gone]")) send(rig().dataset.remove, { load: row.dataset.load });
  else if (on("#undo")) send(rig().dataset.undo, {});
  else if (on("[data-close]")) document.getElementById("drawer").close();
  else if (on("[data-circuit-add]")) send(rig().dataset.circuit, {});
  else if (on("[data-lock-add]")) {
    const [first, second] = [...on("[data-lock]").querySelectorAll("select")].map((x) => x.value);
    send(rig().dataset.lockout, { first, second });
  } else if (on("[data-lock-gone]"))
    send(rig().dataset.lockout, { remove: on("[data-lock-gone]").dataset.lockGone });
  else if (on("[data-circuit-gone]"))
    send(rig().dataset.circuit, { remove: on("[data-circuit-gone]").dataset.circuitGone });
  else if (on("[data-keep-mine]") && lastTry) {
    document.getElementById("rig-version").value = on("[data-conflict]").dataset.version;
    send(lastTry.url, lastTry.values).then(() => location.reload());
  } else if (on("[data-take-theirs]")) location.reload();
});

// What was guessed of one name is nothing of the next.
document.addEventListener("input", (event) => {
  const what = document.getElementById("add-what");
  if (event.target.id === "add-name" && what.value === what.dataset.guessed) what.value = "";
  if (event.target.id === "add-name") delete what.dataset.guessed;
});

document.addEventListener("submit", (event) => {
  if (event.target.id !== "add-form") return;
  event.preventDefault();
  const name = document.getElementById("add-name"),
    what = document.getElementById("add-what");
  if (!name.value.trim() && what.value > "") name.value = what.selectedOptions[0].textContent;
  if (!name.value.trim()) {
    name.focus();
    return;
  }
  send(rig().dataset.add, { name: name.value, what: what.value }).then(() => {
    const refused = answer().querySelector("[data-refused], [data-conflict]");
    // The answer's own place is above the table: too far from here on a phone.
    document.getElementById("add-said").textContent =
      refused?.querySelector("p")?.textContent ?? "";
    if (refused) {
      if (refused.dataset.guess) what.value = what.dataset.guessed = refused.dataset.guess;
      (what.value && !refused.dataset.guess ? name : what).focus();
      return;
    }
    name.value = what.value = "";
    name.focus();
  });
});

document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.target.id === "rig-answer") spread();
});
