// A wait of a step counted down, said at its end.
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

// Without network the list goes on by itself: gates are judged here, what was read is kept and sent
// later. The server judges each again when it arrives, and stops where it does not pass.
const stepTag = (name, words, look) => {
  const tag = document.createElement(name);
  tag.textContent = words;
  if (look) tag.className = look;
  return tag;
};

export function stepPasses(gate, reading) {
  if (!gate) return true;
  if (gate.words) return reading.trim().toLowerCase() === gate.words.toLowerCase();
  const value = Number.parseFloat(reading.replace(",", "."));
  return (
    Number.isFinite(value) && value >= (gate.low ?? -Infinity) && value <= (gate.high ?? Infinity)
  );
}

function drawStep(form, step, count) {
  form.querySelectorAll(":scope > :not([type=hidden])").forEach((part) => part.remove());
  form.elements.place.value = step.number - 1;
  form.append(stepTag("p", `${step.number} of ${count}`, "figure text-[13px] text-soft"));
  if (step.caution)
    form.append(stepTag("p", `Caution. ${step.caution}`, "notice notice-fails my-2 text-[15px]"));
  form.append(
    stepTag("p", step.text, "my-2 text-[22px] leading-snug font-semibold"),
    stepTag("p", step.why, "text-[15px]"),
  );
  if (step.expect) form.append(stepTag("p", `Expect: ${step.expect}`, "mt-2 text-[15px]"));
  const gate = step.gate;
  if (gate && !gate.words) {
    const label = stepTag("label", `${gate.reading} [${gate.unit}]`, "mt-3 block text-[15px]");
    const input = document.createElement("input");
    Object.assign(input, {
      name: "reading",
      id: "reading",
      className: "input text-[20px]",
      inputMode: "decimal",
    });
    label.append(input);
    form.append(label);
  } else if (gate) form.append(stepTag("p", `${gate.reading}?`, "mt-3 text-[15px]"));
  const row = stepTag("div", "", "mt-4 flex gap-2");
  for (const [words, value] of gate?.words
    ? [
        [gate.words, gate.words],
        ["Anything else", "anything else"],
      ]
    : [["Done, next", null]]) {
    const button = stepTag("button", words, "btn btn-main min-h-14 flex-1 text-[17px]");
    if (value) Object.assign(button, { name: "reading", value });
    row.append(button);
  }
  form.append(row);
  form.querySelector("#reading, button").focus();
}

document.addEventListener("submit", (event) => {
  const form = event.target;
  if (form.id !== "step" || navigator.onLine || event.submitter?.name === "back") return;
  event.preventDefault();
  const steps = JSON.parse(document.getElementById("steps").textContent);
  const at = Number(form.elements.place.value),
    step = steps[at];
  const body = new URLSearchParams(new FormData(form, event.submitter));
  if (!stepPasses(step.gate, body.get("reading") ?? "")) {
    form.querySelector(".state-fails[role=alert]")?.remove();
    const fault = stepTag(
      "p",
      `Not passed. ${step.gate.if_not} ${step.gate.ends ? "Stop here and get licensed help." : ""}`,
      "mt-1 state-fails",
    );
    fault.setAttribute("role", "alert");
    form.append(fault);
    if (step.gate.ends)
      form.querySelectorAll("button, input:not([type=hidden])").forEach((part) => {
        part.disabled = true;
      });
    if (!step.gate.ends) return;
  }
  fetch(form.action, {
    method: "POST",
    body,
    headers: { "HX-Request": "true", "X-CSRFToken": body.get("csrfmiddlewaretoken") },
  });
  if (step.gate?.ends && !stepPasses(step.gate, body.get("reading") ?? "")) return;
  if (at + 1 < steps.length) drawStep(form, steps[at + 1], steps.length);
  else
    form.replaceChildren(
      stepTag("p", "Done. It is noted when the network is back.", "text-[17px]"),
    );
});
