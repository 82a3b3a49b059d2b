// What a meter shows, as it comes: a stream of events, or polls where no stream is free. Draws the
// last half minute.
const SHOWN_S = 30;
const POLL_MS = 1000;
const [VOLTS, , AMPS, AMPS_2, , , WH] = [1, 2, 3, 4, 5, 6, 7];
const meter = document.getElementById("meter");
let strip = [];

function line(column, top, height, most) {
  const last = strip[strip.length - 1][0];
  return strip
    .map((row, at) => {
      const x = 560 * (1 - (last - row[0]) / SHOWN_S);
      const y = top + height * (1 - row[column] / most);
      return `${at ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`;
    })
    .join("");
}

function draw() {
  if (!strip.length) return;
  const last = strip[strip.length - 1];
  for (const shown of meter.querySelectorAll("[data-shows]")) {
    const column = Number(shown.dataset.shows);
    const value = column === WH ? last[column] / 1000 : last[column];
    shown.textContent = value.toFixed(column === WH ? 2 : column === 6 || column === VOLTS ? 0 : 1);
  }
  const mostA = Math.max(...strip.map((row) => Math.max(row[AMPS], row[AMPS_2])), 5) * 1.05;
  const mostV = Math.max(...strip.map((row) => row[VOLTS]), 60) * 1.05;
  document.getElementById("strip-amps").setAttribute("d", line(AMPS, 0, 120, mostA));
  document.getElementById("strip-amps-2").setAttribute("d", line(AMPS_2, 0, 120, mostA));
  document.getElementById("strip-volts").setAttribute("d", line(VOLTS, 140, 50, mostV));
  document.getElementById("strip-most").textContent = `amps, ${mostA.toFixed(0)} A at the top`;
}

const ENDED = { starts: "", stalls: "; it did not stay on", trips: "; then nothing was fed" };

export function wordsOf(c) {
  const after = `${c.after_a.toFixed(1)} A`;
  const said =
    c.what === "load"
      ? `${after}, of them ${(c.after_a - c.before_a).toFixed(1)} A new`
      : `${c.peak_a.toFixed(1)} A at most, ${c.lowest_v.toFixed(0)} V at the dip, ${after} after`;
  return said + ENDED[c.outcome];
}

function showCaught(caught) {
  const list = document.getElementById("caught");
  const known = new Set([...list.children].map((row) => row.dataset.at));
  for (const one of [...caught].reverse()) {
    if (known.has(one.at)) continue;
    const row = document.getElementById("caught-row").content.cloneNode(true).firstElementChild;
    row.dataset.at = one.at;
    row.querySelector("span").textContent = `${one.at.slice(11, 19)} UTC: ${wordsOf(one)}`;
    const put = (name, value) => (row.querySelector(`[name="${name}"]`).value = value);
    const load = one.what === "load";
    put("kind", load ? "run" : "start");
    put("once", `meter-${one.at}`.slice(0, 32));
    put("entry.instrument", load ? "monitor" : "inrush-clamp");
    if (load) {
      put("entry.amps", (one.after_a - one.before_a).toFixed(2));
      put("entry.volts", one.after_v);
      row.querySelector("button").textContent = "Keep this load’s amps";
    } else {
      put("entry.peak_a", one.peak_a);
      put("entry.lowest_v", one.lowest_v);
      put("entry.outcome", one.outcome);
    }
    list.prepend(row);
  }
  document.getElementById("caught-none").hidden = list.children.length > 0;
}

function take(news) {
  const last = strip.length ? strip[strip.length - 1][0] : 0;
  strip = strip.concat((news.readings || []).filter((row) => row[0] > last));
  if (strip.length) strip = strip.filter((row) => row[0] > strip[strip.length - 1][0] - SHOWN_S);
  document.getElementById("meter-state").textContent = news.words || news.state;
  meter.dataset.state = news.state;
  draw();
  showCaught(news.caught || []);
}

async function poll() {
  const last = strip.length ? strip[strip.length - 1][0] : 0;
  try {
    const answer = await fetch(`${meter.dataset.readings}?after=${last}`);
    if (answer.ok) take(await answer.json());
  } catch {
    document.getElementById("meter-state").textContent = "this page has no network";
  }
  setTimeout(poll, POLL_MS);
}

if (meter) {
  const source = new EventSource(meter.dataset.stream);
  source.onmessage = (event) => take(JSON.parse(event.data));
  source.onerror = () => {
    // A stream that ended by itself opens again; one that was refused is over.
    if (source.readyState === EventSource.CLOSED) poll();
  };
}
