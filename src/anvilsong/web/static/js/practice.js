// The pedal run: the server welds, this page shows the pool and sends where the hand is. A run whose connection breaks waits,
// paused, and goes on when the page has it again.
import "./practice_choice.js";
import { hold } from "./pedal_hand.js";
import { Weld } from "./weld_picture.js";

const root = document.getElementById("pedal-run");
const { job, part, mode, welder, moves, units } = root.dataset;
const at = (id) => document.getElementById(id);
const weld = new Weld(at("weld"));
const AGAIN_MS = 1500;
const TRIES = 60;
const GAVE_REASON = 1000;
const NOT_STORED = 4503;
const AGAIN = new Set([1001, 1006, 1011, 1012, NOT_STORED]); // closings after which the run is asked for again
const WHY = {
  4001: "This run goes on in another window.",
  4003: "You are no longer in: come in again with the passphrase.",
  4008: "Nothing was done for ten minutes: the run was put away. Start a new one.",
};

let socket = null;
let task = null;
let isOver = true;
let tries = 0;
let was = "";

const WORDS = {
  ready: () => (moves === "pedal" ? "Press the pedal: the arc starts." : "Press the torch switch: the arc starts."),
  waits: () => "The torch waits for the pool.",
  moves: () => "Welding.",
  out: () => "The arc is out: the pool freezes.",
  burnt: () => "Melted through.",
  done: () => "The weld is done.",
  late: () => "Time is up.",
};

function say(words) {
  if (words !== was) at("run-said").textContent = was = words;
}

function address(path, query) {
  const url = new URL(path, location.href);
  url.protocol = location.protocol === "https:" ? "wss:" : "ws:";
  url.search = new URLSearchParams(query).toString();
  return url.href;
}

const hand = hold({
  moves,
  canvas: at("weld"),
  send: (message) => {
    if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify(message));
  },
});

function enable(on) {
  for (const id of ["pause", "stop", "pedal", "travel", "trigger"]) {
    const element = at(id);
    if (element) element.disabled = !on;
  }
  at("start").disabled = on;
  if (!on) at("by-step").disabled = true;
}

function open(query) {
  socket = new WebSocket(address("/practice/live", query));
  socket.addEventListener("message", (event) => heard(JSON.parse(event.data)));
  socket.addEventListener("close", (event) => closed(event.code));
}

function start() {
  isOver = false;
  task = null;
  tries = 0;
  at("run-done").replaceChildren();
  say("Getting the part ready…");
  enable(true);
  at("start").disabled = true;
  open({ job, part, mode, welder });
}

function heard(message) {
  if (message.task) begun(message.task);
  if (message.seen) seen(message.seen, message.paused);
  if (message.said) {
    isOver = true;
    say(message.said);
  }
  if (message.done) {
    isOver = true;
    showDone(message.done);
  }
}

function begun(given) {
  const isAgain = task !== null;
  task = given;
  if (!isAgain) weld.begin(task);
  hand.reset();
  at("pedal")?.focus({ preventScroll: true });
  at("trigger")?.focus({ preventScroll: true });
  const other = at("other-device");
  if (other) {
    other.hidden = false;
    at("hand-code").innerHTML = task.code;
    at("hand-link").href = task.hand;
  }
}

function degrees(celsius) {
  return units === "inch" ? `${Math.round(celsius * 1.8 + 32)} °F` : `${Math.round(celsius)} °C`;
}

function seen(figures, paused) {
  const [time, way, width, behind, before, ahead, through, amps, , pedal, state] = figures;
  if (state !== "done" && state !== "burnt") tries = 0;
  weld.see({ time, way, width, behind, before, ahead, through, state });
  at("pool").textContent = `${Math.round((100 * width) / task.wanted)} %`;
  at("amps").textContent = `${Math.round(amps)} A`;
  at("ahead").textContent = degrees(ahead);
  at("time").textContent = `${time.toFixed(1)} s`;
  at("pause").textContent = paused ? "Go on" : "Pause";
  at("pause").dataset.do = paused ? "go" : "pause";
  at("by-step").disabled = !paused;
  const beat = at("beat");
  beat.hidden = !task.beats;
  if (task.beats) beat.classList.toggle("down", (time * task.beats) % 1 < 0.5);
  if (paused) say("Paused.");
  else if (through > task.sags && state === "moves") say("The pool sags: come off.");
  else say(WORDS[state]());
  root.dataset.state = state;
  root.dataset.pedal = pedal;
}

async function showDone(number) {
  const answer = await fetch(`/practice/done/${number}`).catch(() => null);
  if (!answer?.ok) return say("It is stored; open this page again to see what it came to.");
  at("run-done").innerHTML = (await answer.json()).done;
  at("run-result").scrollIntoView({ block: "nearest" });
}

function closed(code) {
  socket = null;
  if (task && tries < TRIES && AGAIN.has(code) && (!isOver || code === NOT_STORED)) {
    isOver = false;
    tries += 1;
    if (code !== NOT_STORED) say("The connection broke. The run waits for you; trying again.");
    setTimeout(() => open({ run: task.token }), AGAIN_MS);
    return;
  }
  if (isOver || code === GAVE_REASON) return over();
  say(WHY[code] ?? (task ? "The run ended. Nothing of it was counted." : "The run could not be started."));
  over();
}

function over() {
  isOver = true;
  enable(false);
  hand.reset();
  at("start").disabled = false;
  at("start").textContent = "Start again";
}

const does = (what) => socket?.readyState === WebSocket.OPEN && socket.send(JSON.stringify({ do: what }));
at("start").addEventListener("click", start);
at("pause").addEventListener("click", () => does(at("pause").dataset.do || "pause"));
at("by-step").addEventListener("click", () => does("step"));
at("stop").addEventListener("click", () => does("stop"));
