// Marks on a photograph: a known length, the line of the bead, how far to look; and the edges that were found, to be dragged. The
// server measures; here is only where things lie on the picture.
import { holdFingers } from "./hold.js";
import { askJson } from "./server.js";

const root = document.getElementById("measure");
const svg = document.getElementById("marks");
const picture = document.getElementById("picture");
const loupe = document.getElementById("loupe");
const width = Number(root.dataset.width);
const height = Number(root.dataset.height);
const { marks, measured, page, uid, seen } = JSON.parse(root.dataset.state);
let lastSeen = seen; // what this page knows of the picture: another window may measure it too
let found = measured; // figures, edges and the line's places, as the server gave them
let zoom = 1;
const NAMES = ["Outer edge, left", "Toe, left", "Toe, right", "Outer edge, right"];
const GRIPS = 5; // on the edge that is being set
let chosen = -1; // which that is: four edges lie too near one another to be taken hold of all at once

const known = document.getElementById("known");
const problem = document.getElementById("measure-problem");

function element(name, attributes, parent = svg) {
  const made = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  parent.append(made);
  return made;
}

// How many pixels of the picture one pixel of the screen is.
const scale = () => width / (picture.clientWidth || width);
const within = ([x, y]) => [Math.min(Math.max(x, 0), width), Math.min(Math.max(y, 0), height)];
const perMm = () => Math.hypot(marks.known[1][0] - marks.known[0][0], marks.known[1][1] - marks.known[0][1]) / marks.known_mm;

function ends() {
  const [a, b] = [marks.line[0], marks.line.at(-1)];
  const long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  return { a, b, right: [-(b[1] - a[1]) / long, (b[0] - a[0]) / long] };
}

function path(points, names, dashed) {
  const d = `M${points.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L")}`;
  const dash = dashed ? { "stroke-dasharray": `${7 * scale()} ${5 * scale()}` } : {};
  element("path", { d, class: "halo", "stroke-width": 4.5 * scale(), ...dash });
  element("path", { d, class: names, "stroke-width": 2 * scale(), ...dash });
}

// A place to take hold of: by finger, mouse or arrow keys. `moved` is given the pixel it went to.
function grip(at, names, label, moved, done) {
  const group = element("g", { class: `grip ${names}`, tabindex: "0", role: "button", "aria-label": label, "data-grip": label });
  element("circle", { class: "touch", cx: at[0], cy: at[1], r: 22 * scale() }, group);
  element("circle", { class: `ring ${names}`, cx: at[0], cy: at[1], r: 7 * scale(), "stroke-width": 2.5 * scale() }, group);
  group.addEventListener("pointerdown", (event) => {
    event.preventDefault();
    const from = toPicture(event);
    const off = [at[0] - from[0], at[1] - from[1]];
    remember();
    const move = (next) => {
      const [x, y] = toPicture(next);
      const to = within([x + off[0], y + off[1]]);
      moved(to);
      draw();
      showLoupe(to, next);
    };
    const end = () => {
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", end);
      removeEventListener("pointercancel", end);
      loupe.hidden = true;
      done();
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", end);
    addEventListener("pointercancel", end);
  });
  group.addEventListener("keydown", (event) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!way) return;
    event.preventDefault();
    remember();
    const step = event.shiftKey ? 10 : 1;
    moved(within([at[0] + way[0] * step, at[1] + way[1] * step]));
    draw();
    svg.querySelector(`[data-grip="${label}"]`)?.focus();
    clearTimeout(grip.timer);
    grip.timer = setTimeout(done, 400);
  });
}

holdFingers(svg, (target) => target.closest(".grip"));

function toPicture(event) {
  const box = svg.getBoundingClientRect();
  return [((event.clientX - box.left) / box.width) * width, ((event.clientY - box.top) / box.height) * height];
}

function showLoupe([x, y], event) {
  const pen = loupe.getContext("2d");
  const seen = 20 * Math.max(1, scale());
  pen.fillStyle = "#000";
  pen.fillRect(0, 0, 160, 160);
  pen.drawImage(picture, x - seen, y - seen, 2 * seen, 2 * seen, 0, 0, 160, 160);
  pen.strokeStyle = "#fff";
  pen.beginPath();
  pen.moveTo(80, 50);
  pen.lineTo(80, 110);
  pen.moveTo(50, 80);
  pen.lineTo(110, 80);
  pen.stroke();
  loupe.style.left = `${event.clientX > innerWidth / 2 ? 12 : innerWidth - 176}px`;
  loupe.style.top = `${event.clientY > innerHeight / 2 ? 80 : innerHeight - 260}px`;
  loupe.hidden = false;
}

const place = (k, edge) => {
  const [x, y, nx, ny] = found.places[k];
  const off = found.edges.across_mm[edge][k];
  return [x + nx * off, y + ny * off];
};

function drawEdges() {
  const count = found.places.length;
  for (let edge = 0; edge < 4; edge++) {
    const names = edge === 0 || edge === 3 ? "outer" : "toe";
    const sure = found.edges.by_hand[edge] || found.told[edge];
    path(found.places.map((_, k) => place(k, edge)), names, !sure);
    for (let number = 0; edge === chosen && number < Math.min(GRIPS, count); number++) {
      const k = Math.round((number * (count - 1)) / (Math.min(GRIPS, count) - 1));
      const moved = ([x, y]) => {
        const [px, py, nx, ny] = found.places[k];
        const to = ((x - px) * nx + (y - py) * ny) / (nx * nx + ny * ny);
        const by = to - found.edges.across_mm[edge][k];
        const apart = (count - 1) / (Math.min(GRIPS, count) - 1);
        for (let j = 0; j < count; j++) found.edges.across_mm[edge][j] += by * Math.max(0, 1 - Math.abs(j - k) / apart);
        found.edges.by_hand[edge] = true;
      };
      grip(place(k, edge), names, `${NAMES[edge]}, ${number + 1}`, moved, () => measure(true));
    }
  }
}

// What was found beside another line says nothing any more; what somebody set stays on the picture when only its scale changes.
function stale() {
  found = null;
  showFigures();
  measure(false);
}
const rescaled = () => (found?.edges.by_hand.some(Boolean) ? measure(true) : stale());

// A thumb that meant to scroll may have moved a mark: every change can be taken back.
const past = [];
function remember() {
  past.push(JSON.stringify({ marks, found, known: known.value }));
  document.getElementById("undo").disabled = false;
}
document.getElementById("undo").addEventListener("click", () => {
  const before = JSON.parse(past.pop() ?? "null");
  if (!before) return;
  Object.assign(marks, before.marks);
  found = before.found;
  known.value = before.known;
  document.getElementById("undo").disabled = past.length === 0;
  showFigures();
  draw();
  measure(Boolean(found?.edges.by_hand.some(Boolean)));
});

function draw() {
  svg.replaceChildren();
  path(marks.known, "known");
  marks.known.forEach((at, end) => grip(at, "known", `Known length, end ${end + 1}`, (to) => (marks.known[end] = to), rescaled));
  path(marks.line, "line", true);
  const { a, b, right } = ends();
  const reach = marks.reach_mm * perMm();
  for (const side of [-1, 1]) {
    const rail = [a, b].map(([x, y]) => [x + side * right[0] * reach, y + side * right[1] * reach]);
    path(rail, "rail", true);
    const middle = [(rail[0][0] + rail[1][0]) / 2, (rail[0][1] + rail[1][1]) / 2];
    const moved = ([x, y]) => {
      const off = Math.abs((x - a[0]) * right[0] + (y - a[1]) * right[1]) / perMm();
      marks.reach_mm = Math.min(Math.max(off, 2), 60);
    };
    grip(middle, "rail", `How far to look, ${side < 0 ? "left" : "right"}`, moved, stale);
  }
  if (found) drawEdges();
  const last = marks.line.length - 1;
  if (chosen < 0) marks.line.forEach((at, k) => {
    const label = k === 0 ? "Line, where the torch began" : k === last ? "Line, where it ended" : `Line, bend ${k}`;
    grip(at, "line", label, (to) => (marks.line[k] = to), stale);
  });
}

function say(text) {
  problem.textContent = text;
  problem.hidden = !text;
}

function showFigures() {
  const list = document.getElementById("figures");
  list.replaceChildren();
  for (const figure of found?.figures ?? []) {
    const term = document.createElement("dt");
    term.textContent = figure.words;
    const said = document.createElement("dd");
    const value = document.createElement("b");
    value.textContent = figure.value;
    if (!figure.told) value.className = "untold";
    const note = document.createElement("small");
    note.textContent = figure.note;
    said.append(value, note);
    list.append(term, said);
  }
  document.getElementById("use").hidden = !found;
  document.getElementById("edge-choice").hidden = !found;
}

let asked = 0;
async function measure(withEdges) {
  const bare = /^[\d.,\s]+$/.test(known.value);
  const sent = { ...marks, known_mm: bare ? `${known.value} ${known.dataset.unit}` : known.value };
  const set = withEdges ? found : null;
  const body = { marks: sent, edges: set?.edges ?? null, found_with: set?.marks ?? null, page, uid, seen: lastSeen };
  const number = ++asked;
  root.classList.add("busy");
  const answer = await askJson(`/api/photographs/${root.dataset.photograph}/measure`, body, () => measure(withEdges));
  if (!answer || number !== asked) return;
  const told = await answer.json();
  if (number !== asked) return; // another was asked while this one was read
  root.classList.remove("busy");
  if (!answer.ok) {
    say(told.detail ?? "This cannot be measured.");
    return;
  }
  say("");
  lastSeen = told.seen;
  marks.known_mm = told.marks.known_mm;
  found = told;
  showFigures();
  draw();
}

document.getElementById("do-measure").addEventListener("click", () => measure(false));
document.getElementById("anew").addEventListener("click", () => measure(false));
document.getElementById("bend").addEventListener("click", () => {
  if (marks.line.length >= 12) return;
  remember();
  const k = Math.floor(marks.line.length / 2);
  const [a, b] = [marks.line[k - 1], marks.line[k]];
  marks.line.splice(k, 0, [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]);
  stale();
  draw();
});
let typed = known.value;
known.addEventListener("change", () => {
  past.push(JSON.stringify({ marks, found, known: typed }));
  typed = known.value;
  document.getElementById("undo").disabled = false;
  rescaled();
});
for (const button of document.querySelectorAll("[data-zoom]")) {
  button.addEventListener("click", () => {
    zoom = Math.min(Math.max(zoom * (button.dataset.zoom === "in" ? 1.6 : 1 / 1.6), 1), 6.6);
    document.querySelector(".photo-sheet").style.width = `${100 * zoom}%`;
    draw();
  });
}
for (const button of document.querySelectorAll("[data-edge]")) {
  button.addEventListener("click", () => {
    chosen = chosen === Number(button.dataset.edge) ? -1 : Number(button.dataset.edge);
    for (const each of document.querySelectorAll("[data-edge]")) each.setAttribute("aria-pressed", String(Number(each.dataset.edge) === chosen));
    draw();
  });
}
addEventListener("resize", draw);
picture.addEventListener("load", draw);
showFigures();
draw();
