// The whole recording of a current: moved and zoomed by fingers, wheel and keys. The server has read it; here it is only drawn.
const state = JSON.parse(document.getElementById("trace-state").textContent);
const canvas = document.getElementById("trace-canvas");
const span = document.getElementById("trace-span");
const { seconds, lows, highs, begins, cycle, period, unit } = state;
const FEWEST_COLUMNS = 24;
const most = Math.max(...highs, 0);
const least = Math.min(...lows, 0);
let from = 0;
let wide = seconds;

const colour = (name) => getComputedStyle(canvas).getPropertyValue(name).trim();
const least_s = () => Math.min(seconds, (FEWEST_COLUMNS * seconds) / lows.length);

// The mean cycle at a time, in step with the nearest cycle that is known to begin.
function fitted(time) {
  let nearest = begins[0];
  for (const begin of begins) if (Math.abs(begin - time) < Math.abs(nearest - time)) nearest = begin;
  const phase = (((time - nearest) / period) % 1 + 1) % 1;
  const at = cycle.findIndex(([place]) => place >= phase);
  return cycle[at < 0 ? cycle.length - 1 : at][1];
}

function draw() {
  const ratio = window.devicePixelRatio || 1;
  const { width, height } = canvas.getBoundingClientRect();
  if (!width) return;
  canvas.width = Math.round(width * ratio);
  canvas.height = Math.round(height * ratio);
  const pen = canvas.getContext("2d");
  pen.scale(ratio, ratio);
  const y = (amps) => 8 + ((most - amps) / (most - least || 1)) * (height - 16);
  const each = seconds / lows.length;
  const first = Math.max(0, Math.floor(from / each) - 1);
  const last = Math.min(lows.length - 1, Math.ceil((from + wide) / each));
  const x = (time) => ((time - from) / wide) * width;
  pen.strokeStyle = colour("--rule");
  pen.beginPath();
  pen.moveTo(0, y(0));
  pen.lineTo(width, y(0));
  pen.stroke();
  pen.fillStyle = colour("--ink");
  const thick = Math.max(1, (each / wide) * width);
  for (let place = first; place <= last; place += 1)
    pen.fillRect(x(place * each), y(highs[place]), thick, Math.max(1.5, y(lows[place]) - y(highs[place])));
  if (period && cycle.length && begins.length && wide < 8 * period) {
    pen.strokeStyle = colour("--ember");
    pen.lineWidth = 2;
    pen.beginPath();
    for (let pixel = 0; pixel <= width; pixel += 1) {
      const time = from + (pixel / width) * wide;
      if (time < begins[0] || time > begins[begins.length - 1] + period) continue;
      pen.lineTo(pixel, y(fitted(time)));
    }
    pen.stroke();
  }
  const ms = wide < 0.5;
  const shown = (time) => (ms ? (1000 * time).toFixed(1) : time.toFixed(2));
  span.textContent = `${shown(from)} to ${shown(from + wide)} ${ms ? "ms" : "s"}${unit ? `, ${Math.round(least)} to ${Math.round(most)} ${unit}` : ""}`.replaceAll("-", "−");
  canvas.dataset.wide = wide.toPrecision(4);
  canvas.dataset.from = from.toPrecision(4);
}

function show(start, width) {
  wide = Math.min(seconds, Math.max(least_s(), width));
  from = Math.min(seconds - wide, Math.max(0, start));
  requestAnimationFrame(draw);
}

const zoom = (factor, at = from + wide / 2) => show(at - (at - from) * factor, wide * factor);
const timeAt = (event) => {
  const box = canvas.getBoundingClientRect();
  return from + ((event.clientX - box.left) / box.width) * wide;
};

const fingers = new Map(); // where each finger is, and the time that lay under it
canvas.addEventListener("pointerdown", (event) => {
  canvas.setPointerCapture(event.pointerId);
  fingers.set(event.pointerId, { x: event.clientX, time: timeAt(event) });
});
canvas.addEventListener("pointermove", (event) => {
  const finger = fingers.get(event.pointerId);
  if (!finger) return;
  finger.x = event.clientX;
  const box = canvas.getBoundingClientRect();
  const [one, other] = [...fingers.values()];
  if (!other) {
    show(one.time - ((one.x - box.left) / box.width) * wide, wide);
    return;
  }
  const apart = Math.abs(one.x - other.x);
  if (apart < 8) return;
  const width = (Math.abs(one.time - other.time) * box.width) / apart;
  show(one.time - ((one.x - box.left) / box.width) * Math.max(least_s(), Math.min(seconds, width)), width);
});
const lifted = (event) => {
  fingers.delete(event.pointerId);
  // The finger that stays goes on from where it is now.
  const box = canvas.getBoundingClientRect();
  for (const finger of fingers.values()) finger.time = from + ((finger.x - box.left) / box.width) * wide;
};
canvas.addEventListener("pointerup", lifted);
canvas.addEventListener("pointercancel", lifted);
canvas.addEventListener(
  "wheel",
  (event) => {
    if (!event.ctrlKey && document.activeElement !== canvas) return; // the page scrolls, until the drawing is chosen
    event.preventDefault();
    zoom(event.deltaY > 0 ? 1.25 : 0.8, timeAt(event));
  },
  { passive: false },
);
canvas.addEventListener("keydown", (event) => {
  const moves = {
    "+": () => zoom(0.5),
    "=": () => zoom(0.5),
    "-": () => zoom(2),
    ArrowLeft: () => show(from - wide / 4, wide),
    ArrowRight: () => show(from + wide / 4, wide),
    Home: () => show(0, wide),
    End: () => show(seconds, wide),
  };
  if (!moves[event.key]) return;
  event.preventDefault();
  moves[event.key]();
});
document.getElementById("trace-in").addEventListener("click", () => zoom(0.5));
document.getElementById("trace-out").addEventListener("click", () => zoom(2));
new ResizeObserver(draw).observe(canvas);
draw();
