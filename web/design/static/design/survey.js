// The survey's fields filled from the meter on the wire: what it shows now, not what it held.
const WAIT_MS = 400;
const TRIES = 12;

document.querySelector("[data-take]")?.addEventListener("click", async (event) => {
  const button = event.currentTarget;
  const said = document.getElementById("taken");
  button.disabled = true;
  said.textContent = "asking the meter…";
  try {
    for (let tried = 0; tried < TRIES; tried += 1) {
      const news = await (await fetch(button.dataset.take)).json();
      const last = news.readings?.at(-1);
      if (last && news.state === "live" && Date.now() / 1000 - last[0] < 3) {
        document.getElementById("meter-amps").value = (last[3] + last[4]).toFixed(1);
        document.getElementById("meter-volts").value = last[1].toFixed(0);
        said.textContent = "taken; look whether it has settled";
        return;
      }
      said.textContent = news.words || news.state;
      await new Promise((done) => setTimeout(done, WAIT_MS));
    }
  } catch {
    said.textContent = "this page has no network";
  } finally {
    button.disabled = false;
  }
});
