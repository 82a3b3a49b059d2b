// What a person chose for all pages, kept in cookies: light, units, keys on or off.

const YEAR_S = 31536000;
export const keep = (name, value) => {
  document.cookie = `${name}=${value}; path=/; max-age=${YEAR_S}; SameSite=Lax`;
};

const root = document.documentElement;
const chosen = /(?:^|; )theme=(day|night)/.exec(document.cookie)?.[1];
if (chosen) root.dataset.theme ??= chosen; // a page kept for everybody comes without

export function toggleTheme() {
  const dark = root.dataset.theme
    ? root.dataset.theme === "night"
    : matchMedia("(prefers-color-scheme: dark)").matches;
  root.dataset.theme = dark ? "day" : "night";
  keep("theme", root.dataset.theme);
}

export const keysAreOff = () => document.cookie.includes("keys=off");

function sayKeys() {
  const off = keysAreOff();
  document.getElementById("keys").textContent = off ? "Turn the keys on" : "Turn the keys off";
}
document.addEventListener("click", (event) => {
  if (event.target.id !== "keys") return;
  keep("keys", keysAreOff() ? "on" : "off");
  sayKeys();
});
document.addEventListener("DOMContentLoaded", sayKeys);

// What the loads of a rig draw is shown in amps or in watts.
document.addEventListener("click", (event) => {
  if (!event.target.closest("[data-draw-toggle]")) return;
  root.dataset.draws = root.dataset.draws === "watts" ? "amps" : "watts";
  keep("draws", root.dataset.draws);
});

document.addEventListener("click", (event) => {
  if (event.target.closest("#theme, [data-theme-toggle]")) toggleTheme();
});
