// The seam from above: metal, the band that the pool should fill, the bead with its ripples as they froze, the pool. Only drawn;
// what it is comes from the server.
const RIPPLES_A_S = 1.6;
const VIEW_POOLS = 13;
const NARROW_POOLS = 8;
const NARROW_PX = 520;
const STILL_MS = 500;

export class Weld {
  constructor(canvas) {
    this.canvas = canvas;
    this.pen = canvas.getContext("2d");
    this.isStill = matchMedia("(prefers-reduced-motion: reduce)");
    this.drawnAt = 0;
    this.frame = 0;
    this.task = null;
    new ResizeObserver(() => this.ask(true)).observe(canvas);
  }

  begin(task) {
    this.task = task;
    this.places = [];
    this.ripples = [];
    this.nextRipple = 0;
    this.now = { way: task.begins, width: 0, behind: 0, before: 0, ahead: 20, through: 0, state: "ready", time: 0 };
    this.ask(true);
  }

  see(now) {
    this.now = now;
    const last = this.places.at(-1);
    if (now.width > 0) {
      if (!last || now.way > last.way) this.places.push({ way: now.way, width: now.width });
      else last.width = Math.max(last.width, now.width);
    }
    if (now.time >= this.nextRipple && now.state === "moves") {
      this.ripples.push(now.way - now.behind);
      this.nextRipple = now.time + 1 / (this.task.beats ?? RIPPLES_A_S);
    }
    this.ask(["burnt", "done", "late"].includes(now.state));
  }

  ask(isLast = false) {
    if (this.frame || !this.task) return;
    if (!isLast && this.isStill.matches && performance.now() - this.drawnAt < STILL_MS) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      this.drawnAt = performance.now();
      this.draw();
    });
  }

  draw() {
    const { canvas, pen, task, now } = this;
    const ratio = devicePixelRatio || 1;
    const [wide, high] = [canvas.clientWidth, canvas.clientHeight];
    canvas.width = Math.round(wide * ratio);
    canvas.height = Math.round(high * ratio);
    const style = getComputedStyle(document.documentElement);
    const colour = (name) => style.getPropertyValue(`--${name}`).trim();
    const pools = wide < NARROW_PX ? NARROW_POOLS : VIEW_POOLS;
    const scale = Math.min(wide / (pools * task.wanted), high / (3.4 * task.wanted));
    const left = now.way - (wide / scale) * 0.62;
    const x = (way) => (way - left) * scale;
    const middle = high / 2;
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.fillStyle = colour("sheet");
    pen.fillRect(0, 0, wide, high);
    pen.fillStyle = colour("plate");
    pen.fillRect(x(0), 0, task.length * scale, high);
    const heat = pen.createLinearGradient(x(now.way), 0, x(now.way + 6 * task.wanted), 0);
    heat.addColorStop(0, colour("ember-fill"));
    heat.addColorStop(1, colour("plate"));
    pen.globalAlpha = Math.min(0.9, Math.max(0, (now.ahead - 20) / 350));
    pen.fillStyle = heat;
    pen.fillRect(Math.max(x(now.way), x(0)), 0, x(task.length) - x(now.way), high);
    pen.globalAlpha = 1;
    this.band(x, middle, scale, colour);
    pen.strokeStyle = colour("metal-line");
    pen.lineWidth = 1;
    pen.beginPath();
    pen.moveTo(x(now.way), middle);
    pen.lineTo(x(task.length), middle);
    pen.stroke();
    this.bead(x, middle, scale, colour);
    this.pool(x, middle, scale, colour);
  }

  band(x, middle, scale, colour) {
    const { pen, task } = this;
    pen.fillStyle = colour("window");
    for (const side of [-1, 1]) {
      const [inner, outer] = task.band.map((share) => middle + (side * share * task.wanted * scale) / 2);
      pen.fillRect(x(task.begins), Math.min(inner, outer), (task.ends - task.begins) * scale, Math.abs(outer - inner));
    }
  }

  bead(x, middle, scale, colour) {
    const { pen, places, ripples, now } = this;
    const frozen = places.filter((one) => one.way <= now.way);
    if (frozen.length < 2) return;
    pen.fillStyle = colour("bead");
    pen.strokeStyle = colour("metal-line");
    pen.beginPath();
    frozen.forEach((one, n) => pen[n ? "lineTo" : "moveTo"](x(one.way), middle - (one.width / 2) * scale));
    for (const one of frozen.toReversed()) pen.lineTo(x(one.way), middle + (one.width / 2) * scale);
    pen.closePath();
    pen.fill();
    pen.stroke();
    for (const way of ripples) {
      if (way < frozen[0].way) continue; // it would lie before the bead
      const width = this.widthAt(way);
      pen.beginPath();
      pen.ellipse(x(way), middle, width * 0.3 * scale, (width / 2) * scale, 0, Math.PI / 2, (3 * Math.PI) / 2);
      pen.stroke();
    }
  }

  // How wide the bead is at a place.
  widthAt(way) {
    const { places } = this;
    let [low, high] = [0, places.length - 1];
    while (low < high) {
      const half = (low + high) >> 1;
      if (places[half].way < way) low = half + 1;
      else high = half;
    }
    return places[low].width;
  }

  pool(x, middle, scale, colour) {
    const { pen, now, task } = this;
    const half = (now.width / 2) * scale;
    if (half > 0) {
      pen.beginPath();
      pen.ellipse(x(now.way), middle, Math.max(now.before * scale, 1), half, 0, -Math.PI / 2, Math.PI / 2);
      pen.ellipse(x(now.way), middle, Math.max(now.behind * scale, 1), half, 0, Math.PI / 2, (3 * Math.PI) / 2);
      pen.closePath();
      pen.fillStyle = now.state === "burnt" ? colour("ink") : colour("ember-fill");
      pen.strokeStyle = colour("ember");
      pen.lineWidth = now.through > task.sags ? 4 : 2;
      pen.fill();
      pen.stroke();
    }
    if (now.state === "burnt" || now.state === "done") return;
    pen.beginPath(); // where the arc points
    pen.arc(x(now.way), middle, Math.max(3, 0.12 * task.wanted * scale), 0, 2 * Math.PI);
    pen.fillStyle = now.state === "moves" || now.state === "waits" ? colour("arc") : "transparent";
    pen.strokeStyle = colour("ink");
    pen.lineWidth = 1;
    pen.fill();
    pen.stroke();
  }
}
