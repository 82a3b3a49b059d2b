// Typing a plate on the roof: Enter goes to the next field, the last one reads what was typed.
import "./filled.js";

const plate = document.getElementById("plate");

plate.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || !event.target.matches("input, select")) return;
  event.preventDefault();
  const fields = [...plate.querySelectorAll("input:not([type=hidden]), select")];
  const next = fields[fields.indexOf(event.target) + 1];
  if (!next) {
    event.target.blur();
    document.getElementById("reading").scrollIntoView({ block: "start" });
    return;
  }
  next.focus();
  next.select?.();
  next.scrollIntoView({ block: "center" });
});
