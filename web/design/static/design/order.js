// The running order: walking through the steps with their waits, and moving tasks on the day's
// timeline.
const steps = () => [...document.querySelectorAll("#steps [data-step]")];
const now = { at: 0, left: 0, clock: null };

function showStep(at) {
  const all = steps();
  now.at = Math.max(0, Math.min(all.length - 1, at));
  const step = all[now.at].dataset;
  document.getElementById("now-count").textContent = `Step ${now.at + 1} of ${all.length}`;
  document.getElementById("now-title").textContent = step.name;
  document.getElementById("now-expect").textContent = `${step.expectA} A, ${step.expectV} V`;
  const form = document.getElementById("now-form");
  form.reset();
  form.elements.load.value = step.load;
  form.elements.mode.value = step.mode;
  form.elements.expect_a.value = step.expectA;
  document.getElementById("now-answer").textContent = "";
  document.querySelector("[data-now-next]").disabled = now.at === all.length - 1;
  document.querySelector("[data-now-back]").disabled = now.at === 0;
  now.left = Number(step.wait);
  clearInterval(now.clock);
  sayWait(step.why);
  if (now.left > 0)
    now.clock = setInterval(() => {
      now.left -= 1;
      sayWait(step.why);
      if (now.left <= 0) clearInterval(now.clock);
    }, 1000);
}

function sayWait(why) {
  const place = document.getElementById("now-wait");
  if (!place) {
    clearInterval(now.clock);
    return;
  }
  place.textContent = now.left > 0 ? `Wait ${now.left} s first${why ? `: ${why}` : ""}.` : "Now.";
}

// The time of a quarter of the day, the first and the last where it lies beyond.
export function clockOf(slot) {
  const minutes = Math.max(0, Math.min(95, slot)) * 15;
  const two = (number) => String(number).padStart(2, "0");
  return `${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`;
}

function moveTask(task, slot) {
  const number = task.dataset.task,
    form = document.getElementById("day-form");
  form.elements[`task${number}.start`].value = clockOf(slot);
  again(number);
}

let focusTask = null;
function again(number) {
  focusTask = number;
  document.getElementById("plan").click();
}

document.addEventListener("click", (event) => {
  const on = (selector) => event.target.closest(selector);
  if (on("[data-now-open]")) {
    document.getElementById("now").showModal();
    showStep(0);
  } else if (on("[data-now-next]")) showStep(now.at + 1);
  else if (on("[data-now-back]")) showStep(now.at - 1);
  else if (on("[data-now-close]")) {
    clearInterval(now.clock);
    document.getElementById("now").close();
  } else if (on("[data-task-add]")) {
    const body = document.querySelector("#day-form tbody"),
      last = body.lastElementChild;
    if (!last || body.children.length >= 40) return;
    const row = last.cloneNode(true),
      number = body.children.length;
    row.querySelectorAll("[name]").forEach((field) => {
      field.name = field.name.replace(/^task\d+/, `task${number}`);
      const label = field.getAttribute("aria-label");
      if (label) field.setAttribute("aria-label", label.replace(/\d+/, String(number + 1)));
      if (field.tagName === "INPUT" && !field.name.endsWith("minutes")) field.value = "";
    });
    body.append(row);
    row.querySelector("input").focus();
  }
});

document.addEventListener("keydown", (event) => {
  const task = event.target.closest?.("#timeline [data-task]");
  if (!task) return;
  const at = Number(task.dataset.at),
    step = event.shiftKey ? 4 : 1;
  if (event.key === "ArrowLeft" || event.key === "ArrowRight") {
    event.preventDefault();
    moveTask(task, at + (event.key === "ArrowRight" ? step : -step));
  } else if (event.key === "l") {
    document.getElementById("day-form").elements[`task${task.dataset.task}.start`].value = "";
    again(task.dataset.task);
  }
});

let pulled = null;
document.addEventListener("pointerdown", (event) => {
  const task = event.target.closest?.("#timeline [data-task]");
  if (task) {
    pulled = { task, x: event.clientX };
    task.setPointerCapture?.(event.pointerId);
  }
});
document.addEventListener("pointermove", (event) => {
  if (!pulled) return;
  const svg = document.getElementById("timeline"),
    scale = svg.getBoundingClientRect().width / svg.viewBox.baseVal.width;
  pulled.task.setAttribute("transform", `translate(${(event.clientX - pulled.x) / scale} 0)`);
});
document.addEventListener("pointerup", (event) => {
  if (!pulled) return;
  const svg = document.getElementById("timeline"),
    scale = svg.getBoundingClientRect().width / svg.viewBox.baseVal.width;
  const slots = Math.round((event.clientX - pulled.x) / scale / Number(svg.dataset.slot));
  const { task } = pulled;
  pulled = null;
  task.removeAttribute("transform");
  if (slots) moveTask(task, Number(task.dataset.at) + slots);
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.target.id !== "day" || focusTask === null) return;
  document.querySelector(`#timeline [data-task="${focusTask}"]`)?.focus();
});
