// Keys for the whole page; they can be turned off.

import { keysAreOff, toggleTheme } from "./preferences.js";

function shortcut(event) {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "s") {
    const save = document.getElementById("save");
    if (save) {
      event.preventDefault();
      save.click();
    }
    return;
  }
  if (keysAreOff()) return;
  if (
    event.ctrlKey ||
    event.metaKey ||
    event.altKey ||
    event.target.closest?.("input, select, textarea")
  )
    return;
  if (event.key === "?") document.getElementById("help").togglePopover();
  else if (event.key === "d") toggleTheme();
  else if (event.key === "n") location.href = "/setups/new/";
  else if (/^[a-z1-9]$/.test(event.key))
    document.querySelector(`nav a[data-key="${event.key}"]`)?.click();
}

document.addEventListener("keydown", shortcut);
