// Hands on what the microphone takes, a tenth of a second at a time. Runs beside the page, in the sound's own time.
class TapeEar extends AudioWorkletProcessor {
  constructor() {
    super();
    this.held = new Float32Array(Math.round(sampleRate / 10));
    this.count = 0;
  }

  process([[samples]]) {
    for (const sample of samples ?? []) {
      this.held[this.count] = sample;
      this.count += 1;
      if (this.count === this.held.length) {
        this.port.postMessage(this.held.slice());
        this.count = 0;
      }
    }
    return true;
  }
}
registerProcessor("tape-ear", TapeEar);
