// A save that comes back to the same page leaves it where it was read, and says so there.
const rail = () => document.querySelector(".rail");
document.addEventListener("htmx:beforeOnLoad", (event) => {
  const to = event.detail.xhr.getResponseHeader("HX-Redirect");
  if (to && event.target.closest?.("#save") && to === location.pathname)
    sessionStorage.setItem("saved-at", JSON.stringify([scrollY, rail()?.scrollTop ?? 0]));
});
document.addEventListener("DOMContentLoaded", () => {
  const at = sessionStorage.getItem("saved-at");
  if (at === null) return;
  sessionStorage.removeItem("saved-at");
  const answer = document.getElementById("save-answer"),
    flash = document.querySelector("main .flash");
  if (answer && flash) {
    answer.textContent = flash.textContent;
    flash.remove();
  }
  const [top, inRail] = JSON.parse(at);
  scrollTo({ top, behavior: "instant" });
  if (rail()) rail().scrollTop = inRail;
});

document.addEventListener("submit", (event) => {
  if (event.target.id === "setup" && !event.submitter?.hasAttribute("formaction")) {
    event.preventDefault();
    document.getElementById("save").click();
  }
});
