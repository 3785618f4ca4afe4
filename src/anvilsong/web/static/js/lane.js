// One lane: a track with a tab. Values are in inside units; only the field shows the person's own.
import { askJson } from "./server.js";

const list = (text) => (text ? text.split("|") : []);
const MEANT_PX = 6; // a finger that moved less did not mean to drag
const NEAR_TAB_PX = 26;
const SECOND_SIGN_MS = 4000;
const UNDER_TAB_PERCENT = 8;

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
    this.window = data.windowLow === undefined ? null : [Number(data.windowLow), Number(data.windowHigh)];
    this.factor = Number(data.factor);
    this.offset = Number(data.offset);
    this.decimals = Number(data.decimals);
    this.owner = data.owner;
    this.byRatio = data.byRatio !== undefined; // equal ways are equal ratios
    this.names = list(data.names);
    this.choices = list(data.choices);
    this.stops = list(data.stops).map(Number);
    this.changed = changed;
    this.element = element;
    this.track = element.querySelector(".track");
    this.tab = element.querySelector(".tab");
    this.field = element.querySelector("input, select");
    this.lock = element.querySelector(".lock");
    this.problem = element.querySelector(".lane-problem");
    this.unit = element.querySelector(".lane-value i")?.textContent ?? "";
    this.drag = null;
    this.aim = null;
    this.listen();
  }

  listen() {
    this.track.addEventListener("pointerdown", (event) => this.pressed(event));
    this.track.addEventListener("pointermove", (event) => this.moved(event));
    this.track.addEventListener("pointerup", () => (this.drag = null));
    this.track.addEventListener("pointercancel", () => this.letGo());
    this.track.addEventListener("click", (event) => this.tapped(event));
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

  // Only the tab is taken hold of, and only a sideways move moves it: the page scrolls under a finger that goes up or down.
  pressed(event) {
    const tab = this.tab.getBoundingClientRect();
    if (Math.abs(event.clientX - (tab.left + tab.width / 2)) > NEAR_TAB_PX) return;
    // The track as it stood when it was pressed: asking for its place at every move would cost a layout each.
    const { left, width } = this.track.getBoundingClientRect();
    this.drag = { id: event.pointerId, x: event.clientX, from: this.value, wasOff: this.isOff, moving: false, at: tab.left + tab.width / 2 - event.clientX, box: { left, width } };
  }

  moved(event) {
    if (!this.drag || this.drag.id !== event.pointerId) return;
    if (!this.drag.moving) {
      if (Math.abs(event.clientX - this.drag.x) < MEANT_PX) return;
      this.drag.moving = true;
      this.track.setPointerCapture(event.pointerId);
      this.track.focus({ preventScroll: true });
    }
    this.set(this.valueAt(event.clientX + this.drag.at, this.drag.box));
  }

  // The browser took the finger for scrolling: nothing was meant.
  letGo() {
    if (this.drag?.moving && !this.drag.wasOff) this.set(this.drag.from, false);
    this.drag = null;
  }

  valueAt(x, box = this.track.getBoundingClientRect()) {
    const share = Math.min(1, Math.max(0, (x - box.left) / box.width));
    return this.byRatio ? this.low * (this.high / this.low) ** share : this.low + share * (this.high - this.low);
  }

  // A tap beside the tab only marks a place; a second tap on the mark goes there.
  tapped(event) {
    const tab = this.tab.getBoundingClientRect();
    if (Math.abs(event.clientX - (tab.left + tab.width / 2)) <= NEAR_TAB_PX && !this.aim) return;
    const box = this.track.getBoundingClientRect();
    if (this.aim && Math.abs(event.clientX - box.left - this.aim.x) <= NEAR_TAB_PX) {
      const value = this.aim.value;
      this.clearAim();
      this.set(value);
      return;
    }
    this.clearAim();
    const value = this.snapped(this.valueAt(event.clientX));
    const mark = document.createElement("span");
    mark.className = "aim";
    mark.style.left = `${this.percent(value)}%`;
    mark.textContent = `${this.words(value)}? tap again`;
    this.track.append(mark);
    this.aim = { x: event.clientX - box.left, value, mark, timer: setTimeout(() => this.clearAim(), SECOND_SIGN_MS) };
  }

  clearAim() {
    if (!this.aim) return;
    clearTimeout(this.aim.timer);
    this.aim.mark.remove();
    this.aim = null;
  }

  keyed(event) {
    if (event.key === "Enter") {
      event.preventDefault();
      this.field.form.requestSubmit();
      return;
    }
    if (/^[\d.,+-]$/.test(event.key) && !this.names.length && !event.ctrlKey && !event.metaKey) {
      this.field.focus();
      this.field.select(); // the figure lands in the field, in place of what stood there
      return;
    }
    const many = event.shiftKey ? 10 : 1;
    const steps = { ArrowLeft: -many, ArrowDown: -many, ArrowRight: many, ArrowUp: many, PageDown: -10, PageUp: 10 }[event.key];
    if (steps) this.by(steps);
    else if (event.key === "Home") this.set((this.window ?? [this.low])[0]);
    else if (event.key === "End") this.set((this.window ?? [0, this.high])[1]);
    else return;
    event.preventDefault();
  }

  by(steps) {
    if (!this.stops.length) {
      this.set(this.value + steps * this.stepAt(this.value));
      return;
    }
    const nearest = this.stops.reduce((best, stop, place) => (Math.abs(stop - this.value) < Math.abs(this.stops[best] - this.value) ? place : best), 0);
    this.set(this.stops[Math.min(this.stops.length - 1, Math.max(0, nearest + Math.sign(steps)))]);
  }

  // The server reads what was typed, with the parser of every other field; what it cannot read stays, with its sentence.
  async typed() {
    if (this.names.length) {
      this.set(this.choices.indexOf(this.field.value));
      return;
    }
    const text = this.field.value.trim();
    if (text === this.words(this.value)) {
      this.say("");
      return;
    }
    if (text === "") {
      this.show();
      return;
    }
    const answer = await askJson("/api/read", { setting: this.key, typed: text, low: this.low, high: this.high, whose: this.owner }, () => this.typed());
    if (answer === null || this.field.value.trim() !== text) return; // unreachable, or typed on meanwhile
    const said = await answer.json();
    if (this.field.value.trim() !== text) return; // typed on while the answer was read
    if (answer.ok) this.set(said.value, false);
    else this.say(said.problems?.length ? `${said.problems[0].given} cannot be used; ${said.problems[0].allowed}.` : said.detail);
  }

  say(problem) {
    this.problem.textContent = problem;
    this.problem.hidden = !problem;
    this.field.toggleAttribute("aria-invalid", Boolean(problem));
  }

  snapped(value) {
    const inside = Math.min(this.high, Math.max(this.low, value));
    if (this.stops.length) return this.stops.reduce((best, stop) => (Math.abs(stop - inside) < Math.abs(best - inside) ? stop : best));
    const step = this.stepAt(inside);
    return Math.min(this.high, Math.max(this.low, Math.round(inside / step) * step));
  }

  // A tenth of what it is, in whole powers of ten, where equal ways are equal ratios.
  stepAt(value) {
    return this.byRatio ? this.step * 10 ** Math.max(0, Math.floor(Math.log10(value))) : this.step;
  }

  // Dragging and stepping land on whole steps; a planned or typed value stays as exact as it is.
  set(value, snap = true) {
    const inside = this.stops.length || (snap && value !== this.planned) ? this.snapped(value) : Math.min(this.high, Math.max(this.low, value));
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

  words(value) {
    if (this.names.length) return this.names[Math.round(value)];
    return (value * this.factor + this.offset).toFixed(this.decimals).replace("-", "−");
  }

  show() {
    const text = this.words(this.value);
    this.clearAim();
    this.say("");
    this.field.value = this.names.length ? this.choices[Math.round(this.value)] : text;
    const at = this.percent(this.value);
    this.tab.style.left = `${at}%`;
    this.element.querySelector(".ends.low")?.classList.toggle("under-tab", at < UNDER_TAB_PERCENT);
    this.element.querySelector(".ends.high")?.classList.toggle("under-tab", at > 100 - UNDER_TAB_PERCENT);
    const outside = !this.names.length && this.window && (this.value < this.window[0] - 1e-9 || this.value > this.window[1] + 1e-9);
    this.tab.classList.toggle("outside", Boolean(outside));
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
    const along = this.byRatio ? Math.log : Number;
    const span = along(this.high) - along(this.low) || 1;
    return Math.min(100, Math.max(0, (100 * (along(Math.max(value, this.low)) - along(this.low))) / span));
  }

  isChanged() {
    if (this.isOff) return this.planned !== null;
    return this.planned === null || Math.abs(this.value - this.planned) > 0.4 * this.step;
  }
}
