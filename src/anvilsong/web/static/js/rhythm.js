// Dabs in time: a mark blinks with each beat, taps are timed against it; the server judges them. Four marks count in.
import "./practice_choice.js";
const form = document.getElementById("rhythm-form");
const at = (id) => document.getElementById(id);
const beats = JSON.parse(form.dataset.beats);
const beat = Number(form.dataset.beat);
const COUNT_IN = 4;
const AFTER_S = 0.7;
const LIT_S = 0.12;

let begun = null;
let taps = [];
let frame = 0;
let shown = -1;
let sound = null;

const all = [...Array.from({ length: COUNT_IN }, (_, n) => (n - COUNT_IN) * beat), ...beats];
const seconds = () => (performance.now() - begun) / 1000;

// A short soft tone, told beforehand to the sound card, which keeps better time than a page.
function click(now, when) {
  const tone = sound.createOscillator();
  const gain = sound.createGain();
  const start = sound.currentTime + Math.max(0, when - now);
  tone.frequency.value = 660;
  gain.gain.setValueAtTime(0, start);
  gain.gain.linearRampToValueAtTime(0.12, start + 0.01);
  gain.gain.linearRampToValueAtTime(0, start + 0.07);
  tone.connect(gain).connect(sound.destination);
  tone.start(start);
  tone.stop(start + 0.08);
}

function start() {
  taps = [];
  shown = -1;
  begun = performance.now() + COUNT_IN * beat * 1000 + 300;
  at("tap").disabled = at("stop").disabled = false;
  at("start").disabled = true;
  at("tap").focus({ preventScroll: true });
  if (at("clicks").checked) {
    sound ??= new AudioContext();
    for (const when of all) click(seconds(), when);
  }
  at("run-said").textContent = "Four marks count you in.";
  frame = requestAnimationFrame(show);
}

function show() {
  const now = seconds();
  const last = all.findLastIndex((when) => when <= now);
  at("beat").classList.toggle("down", last >= 0 && now - all[last] < LIT_S);
  if (last !== shown && last >= 0) {
    shown = last;
    at("tap-words").textContent = last < COUNT_IN ? String(COUNT_IN - last) : `${last - COUNT_IN + 1} of ${beats.length}`;
    if (last === COUNT_IN) at("run-said").textContent = "Now.";
  }
  if (now > beats.at(-1) + AFTER_S) return end();
  frame = requestAnimationFrame(show);
}

function tap(event) {
  if (begun === null || at("tap").disabled) return;
  event.preventDefault();
  const now = seconds();
  if (now > -beat) taps.push(Math.round(now * 10000) / 10000);
}

function over() {
  cancelAnimationFrame(frame);
  begun = null;
  sound?.close();
  sound = null;
  at("tap").disabled = at("stop").disabled = true;
  at("start").disabled = false;
  at("beat").classList.remove("down");
}

function end() {
  over();
  if (taps.length === 0) {
    at("run-said").textContent = "No tap was made; nothing is counted.";
    return;
  }
  at("taps").value = JSON.stringify(taps);
  form.requestSubmit();
}

at("start").addEventListener("click", start);
at("stop").addEventListener("click", () => {
  over();
  at("run-said").textContent = "Stopped. Nothing of it was counted.";
});
at("tap").addEventListener("pointerdown", tap);
document.addEventListener("keydown", (event) => {
  if (event.key === " " && begun !== null && !event.repeat && document.activeElement?.id !== "stop") tap(event);
});
document.addEventListener("keyup", (event) => {
  if (event.key === " " && begun !== null && document.activeElement?.id === "tap") event.preventDefault();
});
at("run-result")?.scrollIntoView({ block: "nearest" });
