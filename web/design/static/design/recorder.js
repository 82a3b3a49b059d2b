// Hands every block of samples of the microphone to the page.
class Recorder extends AudioWorkletProcessor {
  process([input]) {
    if (input[0]) this.port.postMessage(input[0].slice());
    return true;
  }
}
registerProcessor("recorder", Recorder);
