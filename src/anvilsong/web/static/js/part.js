// A part: drawn over its grid, its rows kept in the form; the film of its heat, scrubbed and played. The server draws and computes;
// here is only where a finger went and which picture is shown.
import { ask, isUp } from "./server.js";

const state = JSON.parse(document.getElementById("part-state").textContent);
const form = document.getElementById("part-form");
const stage = document.getElementById("stage");
const holder = document.getElementById("part-drawing");
const canvas = document.getElementById("film");
const PER_INCH = 25.4;
const MOST_ROWS = 80;
const LETTERS = { shapes: "s", runs: "r", marks: "m" };

// --- the drawing

let asked = 0;
let timer = 0;

function redraw() {
  clearTimeout(timer);
  timer = setTimeout(async () => {
    const mine = ++asked;
    const answer = await ask("/api/parts/draw", { method: "POST", body: new FormData(form) }, redraw);
    if (!answer?.ok || mine !== asked) return;
    const { drawing, problems } = await answer.json();
    if (mine !== asked) return; // another was asked while this one was read
    if (drawing) holder.innerHTML = drawing;
    hang();
    for (const input of form.querySelectorAll("[aria-invalid]")) input.removeAttribute("aria-invalid");
    const said = Object.entries(problems);
    for (const [field] of said) form.elements[field]?.setAttribute?.("aria-invalid", "true");
    const line = document.getElementById("part-problem");
    line.hidden = said.length === 0;
    line.textContent = said.map(([, words]) => words).join(" ");
  }, 120);
}

const sheet = () => {
  const svg = holder.querySelector("svg");
  const data = svg.dataset;
  const number = (name) => Number(data[name]);
  return { svg, left: number("left"), top: number("top"), scale: number("scale"), x: number("x"), y: number("y") };
};

// Where a pointer is, in mm of the part, to whole steps of the grid.
function place(event) {
  const { svg, left, top, scale, x, y } = sheet();
  const box = svg.getBoundingClientRect();
  const units = 800 / box.width;
  const step = scale * units > 0 && 18 / scale > 7 ? 10 : 18 / scale > 3 ? 5 : 1;
  const mm = [left + ((event.clientX - box.left) * units - x) / scale, top - ((event.clientY - box.top) * units - y) / scale];
  return mm.map((each) => Math.round(each / step) * step);
}

const typed = (mm) => (state.inch ? String(Math.round((mm / PER_INCH) * 1000) / 1000) : String(Math.round(mm * 100) / 100));

function freeNumber(letter) {
  for (let number = 0; number < MOST_ROWS; number += 1)
    if (!form.querySelector(`[data-row="${letter}${number}_"]`)) return number;
  return null;
}

function makeRow(kind, number) {
  const letter = LETTERS[kind];
  const rows = form.querySelector(`.part-rows[data-kind="${kind}"]`);
  const made = document.createElement("div");
  made.innerHTML = document.getElementById(`blank-${kind}`).innerHTML.replaceAll(`${letter}NN_`, `${letter}${number}_`);
  const row = made.firstElementChild;
  rows.insertBefore(row, rows.querySelector(".add-row"));
  return row;
}

function addRow(kind, values) {
  const letter = LETTERS[kind];
  const number = freeNumber(letter);
  if (number === null) return null;
  const row = makeRow(kind, number);
  for (const [name, value] of Object.entries(values ?? {})) form.elements[`${letter}${number}_${name}`].value = value;
  follow(row);
  form.dispatchEvent(new Event("input", { bubbles: true }));
  return row;
}

// What a row's choices hide.
function follow(row) {
  const name = row.dataset.row;
  for (const what of ["form", "does"]) {
    const choice = form.elements[name + what];
    if (choice) row.dataset[what] = choice.value;
  }
}

for (const button of form.querySelectorAll(".add-row"))
  button.addEventListener("click", () => addRow(button.dataset.kind)?.querySelector("input, select").focus());
form.addEventListener("click", (event) => {
  const button = event.target.closest(".take-away");
  if (!button) return;
  const row = button.closest(".part-row");
  const next = row.nextElementSibling?.querySelector("input, select") ?? document.getElementById("weld");
  row.remove();
  next.focus();
  form.dispatchEvent(new Event("input", { bubbles: true }));
});
form.addEventListener("input", (event) => {
  const row = event.target.closest?.(".part-row");
  if (row) follow(row);
  redraw();
});

// --- what is not welded yet stays in this browser, rows and all

const DRAFT = `part:${form.dataset.job}`;
const entries = () => [...new FormData(form)].filter(([name]) => !["uid", "tool"].includes(name));

// A bare number keeps the unit it was typed in when the page comes back in other units.
function withUnit(name, value, inch) {
  if (inch !== state.inch && name.endsWith("_corners")) {
    const factor = inch ? PER_INCH : 1 / PER_INCH;
    return value.replace(/-?[\d.]+/g, (each) => String(Math.round(Number(each) * factor * 1e5) / 1e5));
  }
  if (inch === state.inch || !/^[\d.,\s−-]+$/.test(value) || !value.trim()) return value;
  if (name.endsWith("_mm")) return `${value.trim()} ${inch ? "in" : "mm"}`;
  return name.endsWith("_c") ? `${value.trim()} ${inch ? "°F" : "°C"}` : value;
}

function bringBack({ fields, inch }) {
  for (const row of form.querySelectorAll(".part-row")) row.remove();
  for (const [kind, letter] of Object.entries(LETTERS)) {
    const numbers = new Set(fields.map(([name]) => name.match(`^${letter}(\\d+)_`)?.[1]).filter(Boolean));
    for (const number of numbers) makeRow(kind, Number(number));
  }
  for (const [name, value] of fields) {
    const field = form.elements[name];
    if (field && field.type !== "checkbox") field.value = withUnit(name, value, inch);
  }
  for (const row of form.querySelectorAll(".part-row")) follow(row);
}

function openDraft() {
  if (form.dataset.fresh) return localStorage.setItem(DRAFT, JSON.stringify({ fields: entries(), inch: state.inch }));
  const asked = new URLSearchParams(location.search);
  const refused = document.querySelector("[data-refused]");
  if (sessionStorage.getItem("part-sent") === DRAFT && !refused) localStorage.removeItem(DRAFT);
  sessionStorage.removeItem("part-sent");
  const kept = localStorage.getItem(DRAFT);
  if (!kept || refused || asked.has("preset") || asked.has("run")) return;
  try {
    bringBack(JSON.parse(kept));
  } catch {
    localStorage.removeItem(DRAFT);
    return;
  }
  const line = document.createElement("div");
  line.className = "told draft-back";
  line.setAttribute("role", "status");
  line.innerHTML = "<p>What you drew here before is back. It is not simulated yet.</p><button type='button' class='quiet'>Delete it</button>";
  line.querySelector("button").addEventListener("click", () => {
    localStorage.removeItem(DRAFT);
    location.reload();
  });
  form.prepend(line);
  redraw();
}

form.addEventListener("input", () => localStorage.setItem(DRAFT, JSON.stringify({ fields: entries(), inch: state.inch })));
form.addEventListener("submit", async (event) => {
  if (form.dataset.sending) return;
  event.preventDefault();
  const pressed = event.submitter;
  if (!(await isUp())) return;
  form.dataset.sending = "1";
  if (pressed?.id === "weld") sessionStorage.setItem("part-sent", DRAFT);
  form.requestSubmit(pressed ?? undefined);
});
addEventListener("pageshow", (event) => {
  if (event.persisted) delete form.dataset.sending;
});

// --- drawn by hand

function drawn(tool, round, a, b) {
  const [x, y] = [Math.min(a[0], b[0]), Math.min(a[1], b[1])];
  const [wide, high] = [Math.abs(a[0] - b[0]), Math.abs(a[1] - b[1])];
  if (tool === "mark") {
    const number = form.querySelectorAll('.part-rows[data-kind="marks"] .part-row').length + 1;
    return addRow("marks", { name: `Place ${number}`, x_mm: typed(b[0]), y_mm: typed(b[1]) });
  }
  if (tool === "run") {
    if (Math.hypot(wide, high) < 5) return null;
    return addRow("runs", { x_mm: typed(a[0]), y_mm: typed(a[1]), to_x_mm: typed(b[0]), to_y_mm: typed(b[1]) });
  }
  if (round) {
    const across = 2 * Math.hypot(wide, high);
    if (across < 2) return null;
    return addRow("shapes", { does: tool, form: "circle", x_mm: typed(a[0]), y_mm: typed(a[1]), width_mm: typed(across) });
  }
  if (wide < 1 || high < 1) return null;
  return addRow("shapes", {
    does: tool, form: "rectangle", x_mm: typed(x), y_mm: typed(y), width_mm: typed(wide), height_mm: typed(high),
  });
}

// Once a tool was tapped the finger draws, up and down too; before, and beside the part, it scrolls.
for (const tool of document.querySelectorAll('.part-tools input[name="tool"]'))
  tool.addEventListener("click", () => stage.classList.add("draws"));

holder.addEventListener("pointerdown", (event) => {
  if (event.button !== 0 || !holder.querySelector("svg")) return;
  const tool = form.elements.tool.value;
  const round = document.getElementById("round").checked;
  const from = place(event);
  const { svg, left, top, scale, x, y } = sheet();
  const ghost = document.createElementNS("http://www.w3.org/2000/svg", "path");
  ghost.setAttribute("class", "part-ghost");
  svg.append(ghost);
  let to = from;
  const on = ([mx, my]) => `${x + (mx - left) * scale} ${y + (top - my) * scale}`;
  const move = (next) => {
    to = place(next);
    const r = Math.hypot(to[0] - from[0], to[1] - from[1]) * scale;
    if (tool === "run" || tool === "mark") ghost.setAttribute("d", `M${on(from)}L${on(to)}`);
    else if (round) {
      const [cx, cy] = on(from).split(" ").map(Number);
      ghost.setAttribute("d", `M${cx - r} ${cy}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`);
    } else ghost.setAttribute("d", `M${on(from)}L${on([to[0], from[1]])}L${on(to)}L${on([from[0], to[1]])}Z`);
  };
  const stop = () => {
    removeEventListener("pointermove", move);
    removeEventListener("pointerup", end);
    removeEventListener("pointercancel", stop); // a finger that scrolls draws nothing
    ghost.remove();
  };
  const end = (last) => {
    to = place(last);
    stop();
    drawn(tool, round, from, to);
  };
  addEventListener("pointermove", move);
  addEventListener("pointerup", end);
  addEventListener("pointercancel", stop);
});

// --- the film

const film = state.film;
let pictures = null;
let shown = 0;
// Cold metal is as it is drawn; then warm to hot in five steps, and what is molten.
const STEPS = [60, 150, 250, 350, 450, 550, state.contour];
const COLOURS = ["#d6d9d9", "#e5dcc0", "#e2bf83", "#d6934f", "#bb5c3b", "#8a2f3d", "#54194a", "#fff6cf"];

function colour(degrees) {
  const at = STEPS.findIndex((step) => degrees < step);
  return COLOURS[at < 0 ? STEPS.length : at];
}

const table = Uint32Array.from({ length: 256 }, (_, byte) => {
  if (byte === 255) return 0;
  const value = parseInt(colour(byte * 3).slice(1), 16);
  return 0xff000000 | ((value & 0xff) << 16) | (value & 0xff00) | (value >> 16);
});

function hang() {
  const svg = holder.querySelector("svg");
  if (!svg) return;
  Object.assign(canvas.style, {
    left: `${svg.dataset.fromLeft}%`,
    top: `${svg.dataset.fromTop}%`,
    width: `${svg.dataset.wide}%`,
    height: `${svg.dataset.tall}%`,
  });
}

const words = (degrees) => (state.inch ? `${Math.round(degrees * 1.8 + 32)} °F` : `${Math.round(degrees)} °C`);

// Temperatures between the points of the grid by straight lines, so that the colours meet along smooth isotherms. Where one of
// the four points round a pixel is no metal, the pixel is as the nearest point.
function paint(picture, pixels) {
  const { rows, columns } = film;
  const fine = canvas.width / columns;
  const along = Float32Array.from({ length: canvas.width }, (_, x) => Math.min(Math.max((x + 0.5) / fine - 0.5, 0), columns - 1));
  for (let y = 0; y < canvas.height; y += 1) {
    const at = Math.min(Math.max((y + 0.5) / fine - 0.5, 0), rows - 1);
    const row = Math.min(Math.floor(at), Math.max(rows - 2, 0));
    const up = at - row;
    const low = row * columns;
    const high = Math.min(row + 1, rows - 1) * columns;
    const line = (canvas.height - 1 - y) * canvas.width;
    for (let x = 0; x < canvas.width; x += 1) {
      const left = Math.min(Math.floor(along[x]), Math.max(columns - 2, 0));
      const right = Math.min(left + 1, columns - 1);
      const over = along[x] - left;
      const a = picture[low + left], b = picture[low + right], c = picture[high + left], d = picture[high + right];
      let value = (1 - up) * ((1 - over) * a + over * b) + up * ((1 - over) * c + over * d);
      if (a === 255 || b === 255 || c === 255 || d === 255) value = picture[(up < 0.5 ? low : high) + (over < 0.5 ? left : right)];
      pixels[line + x] = table[Math.round(value)];
    }
  }
}

function show(number) {
  shown = Math.min(Math.max(number, 0), film.seconds.length - 1);
  const size = film.rows * film.columns;
  const image = new ImageData(canvas.width, canvas.height);
  paint(pictures.subarray(shown * size, (shown + 1) * size), new Uint32Array(image.data.buffer));
  canvas.getContext("2d").putImageData(image, 0, 0);
  const scrub = document.getElementById("scrub");
  scrub.value = shown;
  const time = `${film.seconds[shown].toFixed(0)} s`;
  scrub.setAttribute("aria-valuetext", time);
  document.getElementById("film-time").textContent = time;
}

async function openFilm() {
  const answer = await ask(`/api/heat-runs/${state.run}/film`, {}, openFilm);
  if (!answer?.ok) return;
  pictures = new Uint8Array(await answer.arrayBuffer());
  const fine = Math.max(1, Math.min(6, Math.floor(600 / film.columns)));
  canvas.width = fine * film.columns;
  canvas.height = fine * film.rows;
  canvas.hidden = false;
  stage.classList.add("has-film");
  document.getElementById("film-bar").hidden = false;
  const scale = document.querySelector(".film-scale");
  [...STEPS, null].forEach((step, at) => {
    const piece = document.createElement("span");
    piece.style.background = COLOURS[at];
    piece.style.color = at > 3 && at < 7 ? "#fff" : "#1d2125";
    piece.textContent = step === null ? "molten" : at === 0 ? `to ${words(step)}` : words(step).split(" ")[0];
    scale.append(piece);
  });
  hang();
  show(Math.max(0, film.seconds.filter((second) => second <= film.ends).length - 1));
  document.getElementById("scrub").addEventListener("input", (event) => {
    event.stopPropagation(); // no change of the drawing
    play(false);
    show(Number(event.target.value));
  });
  document.getElementById("play").addEventListener("click", () => play(!playing));
  holder.addEventListener("pointermove", probe);
}

function probe(event) {
  const box = canvas.getBoundingClientRect();
  const column = Math.floor(((event.clientX - box.left) / box.width) * film.columns);
  const row = film.rows - 1 - Math.floor(((event.clientY - box.top) / box.height) * film.rows);
  const inside = column >= 0 && row >= 0 && column < film.columns && row < film.rows;
  const byte = inside ? pictures[(shown * film.rows + row) * film.columns + column] : 255;
  document.getElementById("film-at").textContent = byte === 255 ? "" : `here ${words(byte * 3)}`;
}

let playing = 0;

function play(on) {
  clearInterval(playing);
  const button = document.getElementById("play");
  button.textContent = on ? "Stop" : "Play";
  button.setAttribute("aria-pressed", String(Boolean(on)));
  playing = 0;
  if (!on) return;
  if (shown >= film.seconds.length - 1) show(0);
  playing = setInterval(() => {
    show(shown + 1);
    if (shown >= film.seconds.length - 1) play(false);
  }, 60);
}

if (film) openFilm();

// --- being computed

const work = document.getElementById("work");

async function watch() {
  const answer = await ask(`/api/heat-runs/${work.dataset.run}`, {}, watch);
  if (!answer?.ok) return;
  const { state: now, share, said } = await answer.json();
  const bar = document.getElementById("work-share");
  if (bar) bar.value = share;
  if (now === "done") location.assign(`${location.pathname}?run=${work.dataset.run}`);
  else if (now === "runs" || now === "waits") {
    document.getElementById("work-words").textContent =
      now === "waits" ? "Waits for another part" : `Being simulated, ${Math.round(share * 100)} %`;
    setTimeout(watch, 400);
  } else {
    document.getElementById("work-words").textContent = said;
    bar?.remove();
    work.querySelector("button")?.remove();
  }
}

openDraft();
if (work?.querySelector("progress")) watch();
hang();
