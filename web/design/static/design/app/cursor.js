// The reading cursor over the drawn start: by pointer and by keys.

const cursor = { at: null };

function readCursor(plot, at) {
  const rows = JSON.parse(plot.dataset.series);
  cursor.at = Math.max(0, Math.min(rows.length - 1, at));
  const [x, t, amps, volts] = rows[cursor.at];
  const mark = plot.querySelector("#plot-cursor");
  mark.removeAttribute("hidden");
  mark.setAttribute("transform", `translate(${x} 0)`);
  const text = `${t.toFixed(2)} s  ${amps.toFixed(1)} A  ${volts.toFixed(1)} V`;
  document.getElementById("plot-reading").textContent = text;
  plot.setAttribute("aria-valuenow", Math.round((100 * cursor.at) / (rows.length - 1)));
  plot.setAttribute("aria-valuetext", text);
}

function pointCursor(event) {
  const plot = event.target.closest("#plot");
  if (!plot) return;
  const box = plot.querySelector("svg").getBoundingClientRect();
  const x = ((event.clientX - box.left) / box.width) * 580;
  const rows = JSON.parse(plot.dataset.series);
  let best = 0;
  rows.forEach((row, n) => {
    if (Math.abs(row[0] - x) < Math.abs(rows[best][0] - x)) best = n;
  });
  readCursor(plot, best);
}

function plotKeys(event) {
  const plot = event.target.closest?.("#plot");
  if (!plot) return;
  const last = JSON.parse(plot.dataset.series).length - 1;
  const step = event.shiftKey ? 10 : 1;
  const now = cursor.at ?? 0;
  const to = {
    ArrowRight: now + step,
    ArrowUp: now + step,
    ArrowLeft: now - step,
    ArrowDown: now - step,
    Home: 0,
    End: last,
  }[event.key];
  if (to === undefined) return;
  event.preventDefault();
  readCursor(plot, to);
}

document.addEventListener("pointermove", pointCursor);
document.addEventListener("pointerdown", pointCursor);
document.addEventListener("keydown", plotKeys);
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target.id === "verdict") cursor.at = null;
});
