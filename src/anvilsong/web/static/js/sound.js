// Hear a setting: the server computes the spectrum, the browser plays it. Also the dab rhythm, with a click and a light.
const RATE = 44100;
const SECONDS = 1.6;

export async function render(settings, seconds = SECONDS) {
  const answer = await fetch("/api/sound", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ settings }) });
  const { harmonics, loudness_db: db, pulse } = await answer.json();
  const context = new OfflineAudioContext(1, Math.round(RATE * seconds), RATE);
  const gain = context.createGain();
  gain.connect(context.destination);
  const level = Math.min(0.9, 0.25 * 10 ** ((db - 80) / 40));
  shape(gain.gain, level, pulse, seconds);
  const base = harmonics[0][0];
  const first = Math.round(base / settings.frequency_hz);
  const count = Math.round(harmonics.at(-1)[0] / settings.frequency_hz);
  const real = new Float32Array(count + 1);
  const imaginary = new Float32Array(count + 1);
  for (const [hertz, amplitude] of harmonics) imaginary[Math.max(first, Math.round(hertz / settings.frequency_hz))] = amplitude;
  const arc = context.createOscillator();
  arc.setPeriodicWave(context.createPeriodicWave(real, imaginary));
  arc.frequency.value = settings.frequency_hz;
  arc.connect(gain);
  arc.start();
  return context.startRendering();
}

// A slow pulse is heard as loud and soft; a fast one as a steady sound.
function shape(gain, level, pulse, seconds) {
  gain.setValueAtTime(0, 0);
  gain.linearRampToValueAtTime(level, 0.02);
  if (pulse && pulse.rate_hz <= 20) {
    for (let start = 0.02; start < seconds; start += 1 / pulse.rate_hz) {
      gain.setValueAtTime(level, start);
      gain.setValueAtTime(level * pulse.base_share, start + pulse.peak_share / pulse.rate_hz);
    }
  }
  gain.setValueAtTime(0, seconds - 0.01);
}

export function toWav(buffer) {
  const samples = buffer.getChannelData(0);
  const view = new DataView(new ArrayBuffer(44 + samples.length * 2));
  const text = (place, word) => [...word].forEach((letter, i) => view.setUint8(place + i, letter.charCodeAt(0)));
  text(0, "RIFF");
  view.setUint32(4, 36 + samples.length * 2, true);
  text(8, "WAVEfmt ");
  for (const [place, size, value] of [[16, 4, 16], [20, 2, 1], [22, 2, 1], [24, 4, buffer.sampleRate], [28, 4, buffer.sampleRate * 2], [32, 2, 2], [34, 2, 16]]) {
    if (size === 4) view.setUint32(place, value, true);
    else view.setUint16(place, value, true);
  }
  text(36, "data");
  view.setUint32(40, samples.length * 2, true);
  samples.forEach((sample, i) => view.setInt16(44 + i * 2, Math.max(-1, Math.min(1, sample)) * 32767, true));
  return new Blob([view.buffer], { type: "audio/wav" });
}

function play(buffer) {
  const context = new AudioContext();
  const source = context.createBufferSource();
  source.buffer = buffer;
  source.connect(context.destination);
  source.onended = () => context.close();
  source.start();
}

export function setUpSound(current, ripple) {
  const hear = document.getElementById("hear");
  hear?.addEventListener("click", async () => {
    const buffer = await render(current());
    hear.dataset.samples = buffer.length;
    hear.dataset.peak = buffer.getChannelData(0).reduce((most, sample) => Math.max(most, Math.abs(sample)), 0).toFixed(3);
    play(buffer);
  });
  document.getElementById("save-wav")?.addEventListener("click", async () => {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(toWav(await render(current(), 3)));
    link.download = "arc.wav";
    link.click();
    URL.revokeObjectURL(link.href);
  });
  setUpRhythm(current, ripple);
}

// A dab a ripple, as the server works the ripples out; the pulse's own rate when it can be dabbed.
const dabRate = ({ pulse, travel_mm_s }, ripple_mm) => (pulse && pulse.rate_hz <= 3 ? pulse.rate_hz : travel_mm_s / ripple_mm);

function setUpRhythm(current, ripple) {
  const button = document.getElementById("metronome");
  const light = document.getElementById("beat");
  let timer = 0;
  let context = null;
  const beat = () => {
    const click = context.createOscillator();
    const gain = context.createGain();
    gain.gain.setValueAtTime(0.3, context.currentTime);
    gain.gain.exponentialRampToValueAtTime(0.001, context.currentTime + 0.06);
    click.frequency.value = 880;
    click.connect(gain).connect(context.destination);
    click.start();
    click.stop(context.currentTime + 0.07);
    light.classList.add("on");
    setTimeout(() => light.classList.remove("on"), 110);
    light.dataset.beats = Number(light.dataset.beats ?? 0) + 1;
    timer = setTimeout(beat, 1000 / dabRate(current(), ripple()));
  };
  button?.addEventListener("click", () => {
    const on = button.getAttribute("aria-pressed") !== "true";
    button.setAttribute("aria-pressed", String(on));
    clearTimeout(timer);
    if (on) {
      context ??= new AudioContext();
      beat();
    }
    button.textContent = on ? `dab rhythm, ${dabRate(current(), ripple()).toFixed(1)} a second` : "dab rhythm";
  });
}
