// One lane: a track with a tab. Values are in inside units; only the field shows the person's own.
export class Lane {
  constructor(element, changed) {
    const data = element.dataset;
    this.key = data.key;
    this.low = Number(data.low);
    this.high = Number(data.high);
    this.step = Number(data.step);
    this.value = Number(data.value);
    this.planned = Number(data.planned);
    this.window = [Number(data.windowLow), Number(data.windowHigh)];
    this.factor = Number(data.factor);
    this.decimals = Number(data.decimals);
    this.changed = changed;
    this.element = element;
    this.track = element.querySelector(".track");
    this.tab = element.querySelector(".tab");
    this.field = element.querySelector("input");
    this.unit = element.querySelector(".lane-value i").textContent;
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
    this.track.addEventListener("keydown", (event) => this.key_(event));
    this.element.querySelector(".less").addEventListener("click", () => this.by(-1));
    this.element.querySelector(".more").addEventListener("click", () => this.by(1));
    this.field.addEventListener("change", () => this.typed());
    this.field.addEventListener("keydown", (event) => {
      if (event.key !== "ArrowUp" && event.key !== "ArrowDown") return;
      event.preventDefault();
      this.by(event.key === "ArrowUp" ? 1 : -1);
    });
  }

  follow(event) {
    const box = this.track.getBoundingClientRect();
    const share = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
    this.set(this.low + share * (this.high - this.low));
  }

  key_(event) {
    const many = event.shiftKey ? 10 : 1;
    const steps = { ArrowLeft: -many, ArrowDown: -many, ArrowRight: many, ArrowUp: many, PageDown: -10, PageUp: 10 }[event.key];
    if (steps) this.by(steps);
    else if (event.key === "Home") this.set(this.window[0]);
    else if (event.key === "End") this.set(this.window[1]);
    else return;
    event.preventDefault();
  }

  by(steps) {
    this.set(this.value + steps * this.step);
  }

  typed() {
    const number = Number(this.field.value.replace("−", "-").replace(",", ".").replace(/[^\d.eE+-]+$/, ""));
    if (Number.isFinite(number) && this.field.value.trim() !== "") this.set(number / this.factor, false);
    else this.show();
  }

  // Dragging and stepping land on whole steps; a planned or typed value stays as exact as it is.
  set(value, snap = true) {
    const stepped = snap && value !== this.planned ? Math.round(value / this.step) * this.step : value;
    const inside = Math.min(this.high, Math.max(this.low, stepped));
    if (Math.abs(inside - this.value) < 1e-9) return this.show();
    this.value = Number(inside.toFixed(6));
    this.show();
    this.changed(this.key, this.value);
  }

  show() {
    const text = (this.value * this.factor).toFixed(this.decimals).replace("-", "−");
    this.field.value = text;
    this.tab.style.left = `${(100 * (this.value - this.low)) / (this.high - this.low)}%`;
    this.tab.classList.toggle("outside", this.value < this.window[0] - 1e-9 || this.value > this.window[1] + 1e-9);
    this.element.querySelector(".lane-value").classList.toggle("changed", this.isChanged());
    this.track.setAttribute("aria-valuenow", this.value);
    this.track.setAttribute("aria-valuetext", `${text} ${this.unit}`);
  }

  isChanged() {
    return Math.abs(this.value - this.planned) > 0.4 * this.step;
  }
}
