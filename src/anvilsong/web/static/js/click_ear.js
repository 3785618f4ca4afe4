// Hears clicks: where the sound is suddenly much louder than it was, the moment is told. Runs beside the page, in the sound's own time.
const FAST_S = 0.002;
const SLOW_S = 0.15;
const LOUDER = 6;
const LEAST = 0.004;
const DEAF_S = 0.15;

class ClickEar extends AudioWorkletProcessor {
  constructor() {
    super();
    this.fast = this.slow = this.before = 0;
    this.deafUntil = currentTime + 0.3;
  }

  process([[samples]]) {
    if (!samples) return true;
    const toFast = 1 - Math.exp(-1 / (FAST_S * sampleRate));
    const toSlow = 1 - Math.exp(-1 / (SLOW_S * sampleRate));
    samples.forEach((sample, n) => {
      const edge = Math.abs(sample - this.before); // a click is sharp, hum and voices are not
      this.before = sample;
      this.fast += (edge - this.fast) * toFast;
      this.slow += (edge - this.slow) * toSlow;
      const when = currentTime + n / sampleRate;
      if (when > this.deafUntil && this.fast > LEAST && this.fast > LOUDER * this.slow) {
        this.deafUntil = when + DEAF_S;
        this.port.postMessage(when);
      }
    });
    return true;
  }
}
registerProcessor("click-ear", ClickEar);
