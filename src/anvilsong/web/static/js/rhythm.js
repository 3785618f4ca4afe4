// Dabs in time: a mark blinks with each beat, taps are timed against it; the server judges them. Four marks count in.
import { followController } from "./controller.js";
import "./practice_choice.js";
const form = document.getElementById("rhythm-form");
const at = (id) => document.getElementById(id);
const beats = JSON.parse(form.dataset.beats);
const beat = Number(form.dataset.beat);
const COUNT_IN = 4;
const AFTER_S = 0.7;
const LIT_S = 0.12;
const PRESSED = 0.5;
const LET_GO = 0.3;

let begun = null;
let taps = [];
let frame = 0;
let shown = -1;
let sound = null;
let ear = null;
let isPressed = false;

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

// The microphone's clicks, at the moment they were made: the sound's clock is laid beside the page's, the input's own delay taken off.
async function listen() {
  const asked = { audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } };
  const stream = await navigator.mediaDevices.getUserMedia(asked);
  const context = new AudioContext();
  const close = () => {
    for (const track of stream.getTracks()) track.stop();
    context.close();
  };
  try {
    await context.audioWorklet.addModule(new URL("./click_ear.js", import.meta.url));
  } catch (trouble) {
    close();
    throw trouble;
  }
  const node = new AudioWorkletNode(context, "click-ear");
  context.createMediaStreamSource(stream).connect(node);
  const delay = stream.getAudioTracks()[0].getSettings().latency ?? 0;
  const apart = performance.now() / 1000 - context.currentTime;
  node.port.addEventListener("message", ({ data }) => count(data + apart - delay - begun / 1000));
  node.port.start();
  return close;
}

async function start() {
  if (at("hears").checked && ear === null) {
    at("start").disabled = true;
    at("run-said").textContent = "Allow the microphone; then tap the bench beside it.";
    ear = await listen().catch(() => null);
    if (ear === null) {
      at("hears").checked = false;
      at("start").disabled = false;
      at("run-said").textContent = "No microphone can be heard here. Tap with a key or a finger.";
      return;
    }
  }
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
  event?.preventDefault();
  count(seconds());
}

function count(now) {
  if (begun !== null && now > -beat) taps.push(Math.round(now * 10000) / 10000);
}

function over() {
  cancelAnimationFrame(frame);
  begun = null;
  sound?.close();
  sound = null;
  ear?.();
  ear = null;
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
// A pedal taps when it goes past half way down, and again once it has come up.
followController((share) => {
  if (share > PRESSED && !isPressed) tap();
  isPressed = share > (isPressed ? LET_GO : PRESSED);
});
// What clicks would be heard as taps.
for (const [one, other] of [["clicks", "hears"], ["hears", "clicks"]])
  at(one).addEventListener("change", () => {
    if (at(one).checked) at(other).checked = false;
  });
if (!navigator.mediaDevices?.getUserMedia) at("hears").closest("label").hidden = true;
document.addEventListener("keydown", (event) => {
  if (event.key === " " && begun !== null && !event.repeat && document.activeElement?.id !== "stop") tap(event);
});
document.addEventListener("keyup", (event) => {
  if (event.key === " " && begun !== null && document.activeElement?.id === "tap") event.preventDefault();
});
at("run-result")?.scrollIntoView({ block: "nearest" });
