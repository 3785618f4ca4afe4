// One lane: a track with a tab. Values are in inside units; only the field shows the person's own.
const list = (text) => (text ? text.split("|") : []);

export class Lane {
  constructor(element, changed) {
    const data = element.dataset;
    this.key = data.key;
    this.group = element.closest(".lane-group")?.dataset.group ?? "main";
    this.low = Number(data.low);
    this.high = Number(data.high);
    this.step = Number(data.step);
    this.value = Number(data.value);
    this.planned = data.planned === "" ? null : Number(data.planned);
    this.window = [Number(data.windowLow), Number(data.windowHigh)];
    this.factor = Number(data.factor);
    this.offset = Number(data.offset);
    this.decimals = Number(data.decimals);
    this.names = list(data.names);
    this.choices = list(data.choices);
    this.stops = list(data.stops).map(Number);
    this.changed = changed;
    this.element = element;
    this.track = element.querySelector(".track");
    this.tab = element.querySelector(".tab");
    this.field = element.querySelector("input, select");
    this.lock = element.querySelector(".lock");
    this.unit = element.querySelector(".lane-value i")?.textContent ?? "";
    this.listen();
  }

  listen() {
    this.track.addEventListener("pointerdown", (event) => {
      this.track.setPointerCapture(event.pointerId);
      this.track.focus();
      this.follow(event);
    });
    this.track.addEventListener("pointermove", (event) => {
      if (this.track.hasPointerCapture(event.pointerId)) this.follow(event);
    });
    this.track.addEventListener("keydown", (event) => this.keyed(event));
    this.element.querySelector(".less").addEventListener("click", () => this.by(-1));
    this.element.querySelector(".more").addEventListener("click", () => this.by(1));
    this.field.addEventListener("change", () => this.typed());
    if (!this.names.length) {
      this.field.addEventListener("keydown", (event) => {
        if (event.key !== "ArrowUp" && event.key !== "ArrowDown") return;
        event.preventDefault();
        this.by(event.key === "ArrowUp" ? 1 : -1);
      });
    }
    this.lock.addEventListener("click", () => this.lock.setAttribute("aria-pressed", String(!this.locked)));
  }

  get locked() {
    return this.lock.getAttribute("aria-pressed") === "true";
  }

  follow(event) {
    const box = this.track.getBoundingClientRect();
    const share = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
    this.set(this.low + share * (this.high - this.low));
  }

  keyed(event) {
    const many = event.shiftKey ? 10 : 1;
    const steps = { ArrowLeft: -many, ArrowDown: -many, ArrowRight: many, ArrowUp: many, PageDown: -10, PageUp: 10 }[event.key];
    if (steps) this.by(steps);
    else if (event.key === "Home") this.set(this.window[0]);
    else if (event.key === "End") this.set(this.window[1]);
    else return;
    event.preventDefault();
  }

  by(steps) {
    if (!this.stops.length) {
      this.set(this.value + steps * this.step);
      return;
    }
    const nearest = this.stops.reduce((best, stop, place) => (Math.abs(stop - this.value) < Math.abs(this.stops[best] - this.value) ? place : best), 0);
    this.set(this.stops[Math.min(this.stops.length - 1, Math.max(0, nearest + Math.sign(steps)))]);
  }

  typed() {
    if (this.names.length) {
      this.set(this.choices.indexOf(this.field.value));
      return;
    }
    const number = Number(this.field.value.replace("−", "-").replace(",", ".").replace(/[^\d.eE+-]+$/, ""));
    if (Number.isFinite(number) && this.field.value.trim() !== "") this.set((number - this.offset) / this.factor, false);
    else this.show();
  }

  // Dragging and stepping land on whole steps; a planned or typed value stays as exact as it is.
  set(value, snap = true) {
    let inside = Math.min(this.high, Math.max(this.low, value));
    if (this.stops.length) inside = this.stops.reduce((best, stop) => (Math.abs(stop - inside) < Math.abs(best - inside) ? stop : best));
    else if (snap && value !== this.planned) inside = Math.min(this.high, Math.max(this.low, Math.round(inside / this.step) * this.step));
    if (Math.abs(inside - this.value) < 1e-9 && !this.isOff) return this.show();
    this.value = Number(inside.toFixed(6));
    this.place(this.value);
    this.changed(this);
  }

  // Shows a value that came from elsewhere, without telling anyone; null is off.
  place(value) {
    this.element.classList.toggle("off", value === null);
    this.field.disabled = value === null;
    if (value !== null) this.value = value;
    this.show();
  }

  get isOff() {
    return this.element.classList.contains("off");
  }

  show() {
    const text = this.names.length ? this.names[Math.round(this.value)] : (this.value * this.factor + this.offset).toFixed(this.decimals).replace("-", "−");
    if (this.names.length) this.field.value = this.choices[Math.round(this.value)];
    else this.field.value = text;
    this.tab.style.left = `${this.percent(this.value)}%`;
    const outside = !this.names.length && (this.value < this.window[0] - 1e-9 || this.value > this.window[1] + 1e-9);
    this.tab.classList.toggle("outside", outside);
    this.element.querySelector(".lane-value").classList.toggle("changed", this.isChanged());
    this.track.setAttribute("aria-valuenow", this.value);
    this.track.setAttribute("aria-valuetext", `${text} ${this.unit}`);
  }

  showGhost(value) {
    const ghost = this.element.querySelector(".ghost-tab");
    ghost.hidden = value === null || Math.abs(value - this.value) < 0.4 * this.step;
    if (value !== null) ghost.style.left = `${this.percent(value)}%`;
  }

  percent(value) {
    return Math.min(100, Math.max(0, (100 * (value - this.low)) / (this.high - this.low || 1)));
  }

  isChanged() {
    if (this.isOff) return this.planned !== null;
    return this.planned === null || Math.abs(this.value - this.planned) > 0.4 * this.step;
  }
}
