// Ten seconds of a start from the microphone, as WAV into the form's own file field.
import "./filled.js";

const SECONDS = 10;
const RATE = 16000;
const button = document.getElementById("record");
const said = document.getElementById("recording");

function wav(blocks, rate) {
  const samples = blocks.reduce((sum, one) => sum + one.length, 0);
  const view = new DataView(new ArrayBuffer(44 + 2 * samples));
  const word = (at, text) => [...text].forEach((c, n) => view.setUint8(at + n, c.charCodeAt(0)));
  word(0, "RIFF");
  view.setUint32(4, 36 + 2 * samples, true);
  word(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, 2 * rate, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  word(36, "data");
  view.setUint32(40, 2 * samples, true);
  let at = 44;
  for (const block of blocks) {
    for (const one of block) {
      view.setInt16(at, Math.max(-1, Math.min(1, one)) * 32767, true);
      at += 2;
    }
  }
  return new Blob([view], { type: "audio/wav" });
}

async function record() {
  // What makes speech clear takes the hum out: none of it.
  const audio = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };
  const stream = await navigator.mediaDevices.getUserMedia({ audio });
  let context;
  let source;
  try {
    context = new AudioContext({ sampleRate: RATE });
    source = context.createMediaStreamSource(stream);
  } catch {
    context = new AudioContext(); // this browser records at its own rate only
    source = context.createMediaStreamSource(stream);
  }
  await context.audioWorklet.addModule(new URL("recorder.js", import.meta.url));
  const node = new AudioWorkletNode(context, "recorder");
  const blocks = [];
  let had = 0;
  const whole = SECONDS * context.sampleRate;
  await new Promise((done) => {
    node.port.onmessage = ({ data }) => {
      blocks.push(data);
      had += data.length;
      const left = Math.ceil((whole - had) / context.sampleRate);
      const words = had < 2 * context.sampleRate ? "Quiet…" : "Switch it on now.";
      const text = `${words} ${left} s left.`;
      if (said.textContent !== text) said.textContent = text;
      if (had >= whole) done();
    };
    source.connect(node);
  });
  stream.getTracks().forEach((track) => track.stop());
  await context.close();
  return wav(blocks, context.sampleRate);
}

if (button && navigator.mediaDevices && window.AudioWorkletNode) {
  button.hidden = false;
  button.addEventListener("click", async () => {
    button.disabled = true;
    try {
      const file = new File([await record()], "start.wav", { type: "audio/wav" });
      const carried = new DataTransfer();
      carried.items.add(file);
      button.form.elements.sound.files = carried.files;
      said.textContent = "Listening to it…";
      button.form.requestSubmit(document.getElementById("listen"));
    } catch {
      said.textContent = "The microphone gave nothing: allow it for this page, or choose a file.";
      button.disabled = false;
    }
  });
}

// A post's memory goes by the hours of the place.
for (const input of document.querySelectorAll("input[name=offset]")) {
  input.value = new Date().getTimezoneOffset();
}
