// Undo and redo over whole settings. Changes that follow one another within a moment are one step.
const MOMENT_MS = 600;

export class History {
  constructor(first, changed) {
    this.past = [];
    this.now = first;
    this.future = [];
    this.last = 0;
    this.changed = changed;
  }

  note(settings) {
    const time = Date.now();
    if (time - this.last > MOMENT_MS || this.past.length === 0) this.past.push(this.now);
    this.last = time;
    this.now = structuredClone(settings);
    this.future = [];
    this.changed();
  }

  undo() {
    this.future.push(this.now);
    this.now = this.past.pop();
    this.last = 0;
    this.changed();
    return this.now;
  }

  redo() {
    this.past.push(this.now);
    this.now = this.future.pop();
    this.last = 0;
    this.changed();
    return this.now;
  }

  get canUndo() {
    return this.past.length > 0;
  }

  get canRedo() {
    return this.future.length > 0;
  }
}
