// The board: lanes are dragged, stepped, typed and held; every change asks the server and redraws what it will do.
import { History } from "./history.js";
import { Lane } from "./lane.js";
import { AMPS, Amps, readLane, writeLane } from "./settings.js";
import { showDifferences, showFigures, showMargins, showPanel, showTies, showWarnings } from "./outcome.js";
import { dropDraft, onTop, readDraft, same, writeDraft } from "./board_draft.js";
import { painter, put } from "./paint.js";
import { askJson, isUp } from "./server.js";
import { followHandles } from "./wave.js";
import { setUpSound } from "./sound.js";

const state = JSON.parse(document.getElementById("state").textContent);

// Where there is room, EP amplitude and waveform stand open beside their drawing.
if (matchMedia("(min-width: 821px)").matches) document.querySelector('.lane-group[data-group="shape"]')?.setAttribute("open", "");
let settings = structuredClone(state.settings);
let ripple = state.ripple_mm;
let waiting = false;
const DRAFT_AFTER_MS = 150;
const lanes = new Map();
const amps = new Amps(settings, state.job.control === "pedal");
const history = new History(structuredClone(settings), showHistory);
const places = Object.fromEntries(["section", "wave", "overview", "pedal"].map((name) => [name, document.getElementById(name)]));
places.panel_drawing = document.getElementById("panel-drawing");
const faces = ["panel", "panel_drawing", "margins", "section", "wave", "overview", "ties", "figures", "differences", "pedal"];

// One question is under way at a time, until its answer is read to the end; then the latest settings are asked about.
let underWay = false;
async function ask() {
  if (underWay) {
    waiting = true;
    return;
  }
  underWay = true;
  const answer = await askJson("/api/consequences", { job: state.job, settings, ghost: state.ghost, large: state.large, foot: state.foot, coefficients: state.coefficients, show: faces }, ask);
  const seen = await answer?.json().catch(() => null);
  underWay = false;
  if (waiting) {
    waiting = false;
    ask(); // without waiting for a frame: the answer travels while this one is painted
  }
  if (!seen) return;
  if (!answer.ok) {
    paint.drop();
    showWarnings([{ level: "stop", message: seen.detail }]);
    return;
  }
  paint(seen);
}

const paint = painter(
  (seen) => put(places.wave, seen.wave),
  (seen) => {
    put(places.section, seen.section);
    showMargins(seen.margins);
    showWarnings(seen.warnings);
  },
  (seen) => {
    put(places.panel_drawing, seen.panel_drawing);
    showPanel(seen.panel, lanes);
  },
  (seen) => {
    for (const name of ["overview", "pedal"]) put(places[name], seen[name]);
    ripple = seen.consequences.ripple_mm;
    showTies(seen.ties);
    showFigures(seen.figures);
    showDifferences(seen.differences);
  },
);

// One question a frame is enough however fast the tab moves.
let framed = false;
function soon() {
  if (framed) return;
  framed = true;
  requestAnimationFrame(() => {
    framed = false;
    ask();
  });
}

// What is not kept yet stays in this browser, and the board says so: written a moment after the last move, and when the page goes.
let writes = 0;
function keepDraft() {
  clearTimeout(writes);
  writes = setTimeout(writeNow, DRAFT_AFTER_MS);
  showDraft();
}

function writeNow() {
  clearTimeout(writes);
  writes = 0;
  if (same(settings, state.settings)) dropDraft(state.job_id);
  else writeDraft(state.job_id, { base: state.settings, settings, revision: state.revision, words: draftWords() });
}

addEventListener("pagehide", () => {
  if (writes) writeNow(); // a page on which nothing was moved leaves the draft of another window alone
});

function draftWords() {
  return [...lanes.values()]
    .filter((lane) => !lane.isOff && Math.abs((readLane(state.settings, lane) ?? Infinity) - lane.value) > 1e-9)
    .map((lane) => `${lane.element.querySelector(".lane-name label").textContent} ${lane.words(lane.value)} ${lane.unit}`.trim());
}

function showDraft() {
  document.getElementById("draft").hidden = same(settings, state.settings);
}

function changed(lane) {
  if (AMPS.includes(lane.key)) {
    amps.write(settings, lane);
    for (const key of AMPS) lanes.get(key)?.place(settings[key]);
  } else writeLane(settings, lane);
  history.note(settings);
  keepDraft();
  soon();
}

// Write settings that came from elsewhere (undo, solving, the plan) onto every lane.
function show(next) {
  settings = structuredClone(next);
  amps.within(settings);
  for (const lane of lanes.values()) lane.place(readLane(settings, lane));
  for (const group of ["pulse", "mix"]) showGroup(group, settings[group] !== null);
  keepDraft();
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
  const answer = await askJson("/api/resolve", { job: state.job, settings, locked, coefficients: state.coefficients });
  if (answer === null) return;
  const seen = await answer.json();
  const said = document.getElementById("resolved");
  if (!answer.ok) {
    said.textContent = seen.detail;
    return;
  }
  const conflicts = seen.conflicts.map((conflict) => conflict.message).join(" ");
  if (seen.kept_back) {
    said.textContent = `Nothing was moved: around these it would bring what is not there now. ${conflicts}`;
    return;
  }
  history.note(seen.settings);
  show(seen.settings);
  const moved = seen.moved.length ? `Moved: ${seen.moved.join(", ")}.` : "Nothing had to move.";
  said.textContent = seen.conflicts.length ? `Still in conflict: ${conflicts} ${moved}` : `${moved} Every limit is respected.`;
});

document.getElementById("compare").addEventListener("change", (event) => {
  const address = new URL(location);
  if (event.target.value) address.searchParams.set("compare", event.target.value);
  else address.searchParams.delete("compare");
  location = address;
});

document.getElementById("drop-draft").addEventListener("click", () => {
  history.note(state.settings);
  show(state.settings);
});

const form = document.getElementById("board");
const SENT = `board-sent:${state.job_id}`;
// A save that was taken has no draft any more; one that was refused, or never arrived, keeps it.
if (sessionStorage.getItem(SENT) && !state.trouble) dropDraft(state.job_id);
sessionStorage.removeItem(SENT);
form.addEventListener("submit", async (event) => {
  event.preventDefault();
  if (!(await isUp())) return;
  const exact = {};
  for (const lane of lanes.values()) if (!lane.names.length && !lane.isOff && lane.field.value === lane.words(lane.value)) exact[lane.key] = [lane.field.value, lane.value];
  form.elements.exact.value = JSON.stringify(exact);
  if (writes) writeNow();
  sessionStorage.setItem(SENT, "1");
  form.submit();
});

// Work that was left here before comes back, on top of what was kept since.
const left = state.trouble || state.as_it_was ? null : readDraft(state.job_id);
if (left && !same(left.settings, left.base)) {
  const merged = onTop(left, state.settings);
  if (!same(merged, state.settings)) {
    history.note(merged);
    show(merged);
  } else dropDraft(state.job_id);
}

followHandles(document.getElementById("wave"), lanes, () => settings);
setUpSound(() => settings, () => ripple);
showTies([...document.querySelectorAll("#ties li")].map((line) => ({ a: line.dataset.a, b: line.dataset.b, words: line.textContent })));
