// The board: lanes are dragged, stepped, typed and held; every change asks the server and redraws what it will do.
import { History } from "./history.js";
import { Lane } from "./lane.js";
import { readLane, writeLane } from "./settings.js";
import { showDifferences, showFigures, showMargins, showPanel, showTies, showWarnings } from "./outcome.js";
import { followHandles } from "./wave.js";
import { setUpSound } from "./sound.js";

const state = JSON.parse(document.getElementById("state").textContent);
let settings = state.settings;
let asked = 0;
let waiting = false;
const lanes = new Map();
const history = new History(structuredClone(settings), showHistory);
const faces = ["panel", "panel_drawing", "margins", "section", "wave", "overview", "ties", "figures", "differences"];

async function post(address, body) {
  const answer = await fetch(address, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) });
  return { ok: answer.ok, seen: await answer.json() };
}

async function ask() {
  const number = ++asked;
  const { ok, seen } = await post("/api/consequences", { job: state.job, settings, ghost: state.ghost, large: state.large, show: faces });
  if (number !== asked) return; // a newer question is under way
  if (!ok) {
    showWarnings([{ level: "stop", message: seen.detail }]);
    return;
  }
  const held = document.activeElement?.dataset?.handle;
  document.getElementById("section").innerHTML = seen.section;
  document.getElementById("wave").innerHTML = seen.wave;
  if (held) document.querySelector(`#wave [data-handle="${held}"]`)?.focus();
  document.getElementById("overview").innerHTML = seen.overview;
  const drawn = document.getElementById("panel-drawing");
  if (drawn) drawn.innerHTML = seen.panel_drawing;
  showMargins(seen.margins);
  showWarnings(seen.warnings);
  showPanel(seen.panel, lanes);
  showTies(seen.ties);
  showFigures(seen.figures);
  showDifferences(seen.differences);
}

// One question a frame is enough however fast the tab moves.
function soon() {
  if (waiting) return;
  waiting = true;
  requestAnimationFrame(() => {
    waiting = false;
    ask();
  });
}

function changed(lane) {
  writeLane(settings, lane);
  history.note(settings);
  soon();
}

// Write settings that came from elsewhere (undo, solving, the plan) onto every lane.
function show(next) {
  settings = structuredClone(next);
  for (const lane of lanes.values()) lane.place(readLane(settings, lane));
  for (const group of ["pulse", "mix"]) showGroup(group, settings[group] !== null);
  soon();
}

function showGroup(group, on) {
  const box = document.querySelector(`.lane-group[data-group="${group}"]`);
  if (!box) return;
  box.querySelector("input[type=checkbox]").checked = !on;
  box.querySelector(".group-state").textContent = on ? "on" : "off";
}

function showHistory() {
  document.getElementById("undo").disabled = !history.canUndo;
  document.getElementById("redo").disabled = !history.canRedo;
}

for (const element of document.querySelectorAll(".lane")) {
  const lane = new Lane(element, changed);
  lanes.set(lane.key, lane);
  if (state.ghost) lane.showGhost(readLane(state.ghost, lane));
}

for (const box of document.querySelectorAll(".lane-group input[type=checkbox]")) {
  box.addEventListener("change", () => {
    const group = box.closest(".lane-group").dataset.group;
    const other = group === "pulse" ? "mix" : "pulse";
    if (box.checked) settings[group] = null;
    else {
      settings[other] = null; // a pulse and a mix do not go together
      for (const lane of lanes.values()) if (lane.group === group) writeLane(settings, lane);
    }
    history.note(settings);
    show(settings);
  });
}

document.getElementById("back-to-plan").addEventListener("click", () => {
  history.note(state.planned);
  show(state.planned);
});
document.getElementById("undo").addEventListener("click", () => show(history.undo()));
document.getElementById("redo").addEventListener("click", () => show(history.redo()));
document.addEventListener("keydown", (event) => {
  if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z" || event.target.matches("input, textarea")) return;
  event.preventDefault();
  if (event.shiftKey ? history.canRedo : history.canUndo) show(event.shiftKey ? history.redo() : history.undo());
});

document.getElementById("resolve").addEventListener("click", async () => {
  const locked = [...lanes.values()].filter((lane) => lane.locked).map((lane) => lane.key);
  const { ok, seen } = await post("/api/resolve", { job: state.job, settings, locked });
  const said = document.getElementById("resolved");
  if (!ok) {
    said.textContent = seen.detail;
    return;
  }
  history.note(seen.settings);
  show(seen.settings);
  const moved = seen.moved.length ? `Moved: ${seen.moved.join(", ")}.` : "Nothing had to move.";
  said.textContent = `${moved} ${seen.conflicts.length ? `Still in conflict: ${seen.conflicts.map((conflict) => conflict.message).join(" ")}` : "Every limit is kept."}`;
});

document.getElementById("compare").addEventListener("change", (event) => {
  const address = new URL(location);
  if (event.target.value) address.searchParams.set("compare", event.target.value);
  else address.searchParams.delete("compare");
  location = address;
});

followHandles(document.getElementById("wave"), lanes, () => settings);
setUpSound(() => settings);
showTies([...document.querySelectorAll("#ties li")].map((line) => ({ a: line.dataset.a, b: line.dataset.b, words: line.textContent })));
