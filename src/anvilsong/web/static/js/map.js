// The point on the map: dragged, or moved by keys; what it does comes from the server, as on the board.
import { holdFingers } from "./hold.js";
import { showMargins, showWarnings } from "./outcome.js";
import { painter, put, say } from "./paint.js";
import { ask } from "./server.js";

const state = JSON.parse(document.getElementById("map-state").textContent);
const form = document.getElementById("map-form");
const holder = document.getElementById("map");
const svg = holder.querySelector("svg");
const point = document.getElementById("map-point");
const [xAxis, yAxis] = state.axes;
const fields = state.axes.map((axis) => document.getElementById(`value_${axis.key}`));
const data = Object.fromEntries(Object.entries(svg.dataset).map(([name, value]) => [name, Number(value)]));

document.querySelector("#map-axes .board-end").style.display = "none"; // a choice is drawn at once
for (const select of document.querySelectorAll("#map-axes select"))
  select.addEventListener("change", () => document.getElementById("map-axes").requestSubmit());

// What was typed before a switch of units still has its unit behind it; the server reads that, the point waits.
const numberIn = (text) => Number(text.replace("−", "-").replace(",", "."));
const values = state.axes.map(({ offset, factor }, n) => inside(n, (numberIn(fields[n].defaultValue) - offset) / factor));
const moves = state.axes.map((axis) => axis.key !== "thickness_mm"); // it is no setting

function read(n) {
  const shown = numberIn(fields[n].value);
  return Number.isFinite(shown) ? (shown - state.axes[n].offset) / state.axes[n].factor : values[n];
}

function inside(n, value) {
  const [start, end] = n === 0 ? [data.xLow, data.xHigh] : [data.yLow, data.yHigh];
  const [least, most] = state.axes[n].reach ?? [start, end];
  // No further than its lane goes; what stands past that end stays where it stands.
  const [low, high] = most < start || least > end ? [start, end] : [Math.max(start, least), Math.min(end, most)];
  return Math.min(Math.max(value, low), high);
}

function place() {
  const x = data.left + ((values[0] - data.xLow) / (data.xHigh - data.xLow)) * (data.right - data.left);
  const y = data.bottom - ((values[1] - data.yLow) / (data.yHigh - data.yLow)) * (data.bottom - data.top);
  for (const each of point.children) {
    each.setAttribute("cx", x);
    each.setAttribute("cy", y);
  }
  point.setAttribute("aria-valuetext", state.axes.map((axis, n) => `${fields[n].labels[0].textContent} ${fields[n].value}`).join(", "));
}

function write() {
  state.axes.forEach((axis, n) => {
    if (moves[n]) fields[n].value = (values[n] * axis.factor + axis.offset).toFixed(axis.decimals).replace("-", "−");
  });
}

function go(to, written = true) {
  to.forEach((value, n) => {
    if (moves[n]) values[n] = inside(n, Math.round(value / state.axes[n].step) * state.axes[n].step);
  });
  if (written) write();
  place();
  follow();
}

// The settings as the point has them: the same rules as the board's (a ceiling goes up with the foot).
function settings() {
  const found = structuredClone(state.settings);
  const at = Object.fromEntries(state.axes.map((axis, n) => [axis.key, values[n]]));
  if ("amps_run" in at) {
    found.amps_run = at.amps_run;
    found.amps_set = state.pedal ? Math.max(at.amps_run, found.amps_set) : at.amps_run;
  }
  for (const key of ["travel_mm_s", "ep_share", "ep_trim", "frequency_hz"]) if (key in at) found[key] = at[key];
  if ("preheat_c" in at) found.preheat_c = at.preheat_c > state.job.part_temperature_c ? at.preheat_c : null;
  if ("ep_amps" in at) found.ep_trim = Math.min(Math.max(at.ep_amps / found.amps_run - 1, -0.9), 1);
  return found;
}

// One question is under way at a time, until its answer is read to the end: an older answer never comes after a newer one.
let busy = false;
let again = false;

async function follow() {
  if (busy) {
    again = true;
    return;
  }
  busy = true;
  const body = { job: state.job, settings: settings(), coefficients: state.coefficients, show: ["margins", "section", "panel", "panel_drawing"] };
  const options = { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(body) };
  const answer = await ask("/api/consequences", options, follow);
  const seen = answer?.ok ? await answer.json().catch(() => null) : null;
  busy = false;
  if (again) {
    again = false;
    follow(); // the answer travels while this one is painted
  }
  if (seen) paint(seen);
}

const paint = painter(
  (seen) => {
    put(document.getElementById("section"), seen.section);
    showMargins(seen.margins);
    showWarnings(seen.warnings);
  },
  (seen) => {
    if (seen.panel_drawing) put(document.getElementById("panel-drawing"), seen.panel_drawing);
    for (const line of seen.panel.lines) {
      const figure = document.querySelector(`#set-line [data-set="${line.setting}"] .on-panel b`);
      if (figure) say(figure, line.shown);
    }
  },
);

function toValues(event, box) {
  const { width, height } = svg.viewBox.baseVal;
  const [ux, uy] = [width / box.width, height / box.height];
  const x = ((event.clientX - box.left) * ux - data.left) / (data.right - data.left);
  const y = (data.bottom - (event.clientY - box.top) * uy) / (data.bottom - data.top);
  return [data.xLow + x * (data.xHigh - data.xLow), data.yLow + y * (data.yHigh - data.yLow)];
}

holdFingers(point, () => true);
point.addEventListener("pointerdown", (event) => {
  event.preventDefault();
  point.focus();
  point.setPointerCapture(event.pointerId);
  // The map as it stood when the finger came down: a stop that is told above it moves the map, not the point.
  const box = svg.getBoundingClientRect();
  const from = toValues(event, box);
  const off = [values[0] - from[0], values[1] - from[1]];
  const move = (next) => go(toValues(next, box).map((value, n) => value + off[n]));
  point.addEventListener("pointermove", move);
  const stop = () => point.removeEventListener("pointermove", move);
  for (const ends of ["pointerup", "pointercancel"]) point.addEventListener(ends, stop, { once: true });
});

const KEYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowDown: [0, -1], ArrowUp: [0, 1] };
point.addEventListener("keydown", (event) => {
  const way = KEYS[event.key];
  if (!way) return;
  event.preventDefault();
  event.stopPropagation();
  const far = event.shiftKey ? 10 : 1;
  go(values.map((value, n) => value + way[n] * far * state.axes[n].step));
});
fields.forEach((field, n) =>
  field.addEventListener("input", () => {
    const to = [...values];
    to[n] = read(n);
    go(to, false);
  }),
);
place();
