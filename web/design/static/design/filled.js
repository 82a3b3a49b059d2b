// A figure of a photograph that was not sure is used only when somebody says so.
import "./shrink.js";

document.addEventListener("click", (event) => {
  const asked = event.target.closest("[data-fill]");
  const field = asked && asked.form?.elements[asked.dataset.fill];
  if (!field) return;
  field.value = asked.dataset.value;
  field.dispatchEvent(new Event("change", { bubbles: true }));
  asked.disabled = true;
  field.focus();
});
