// Handles on the wave: dragging one moves the lane of the same name; the drawing follows from the server.
import { holdFingers } from "./hold.js";

const MEANT_PX = 6;
const SIDEWAYS = new Set(["ep_share", "frequency_hz"]);

export function followHandles(box, lanes, current) {
  let drag = null;
  // A finger that goes up or down scrolls the page; a handle that was tapped first is held.
  const isTaken = (handle) => handle !== null && handle === document.activeElement;
  holdFingers(box, (target) => isTaken(target.closest("[data-handle]")));

  box.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest("[data-handle]");
    if (!handle || !lanes.has(handle.dataset.handle)) return;
    if (event.pointerType === "touch" && !SIDEWAYS.has(handle.dataset.handle) && !isTaken(handle)) return;
    const svg = handle.ownerSVGElement;
    const size = svg.viewBox.baseVal.width / svg.getBoundingClientRect().width;
    drag = { key: handle.dataset.handle, id: event.pointerId, moving: false, x: event.clientX, y: event.clientY, size, cycle: Number(svg.dataset.cycle), scale: Number(svg.dataset.scale), from: structuredClone(current()), value: lanes.get(handle.dataset.handle).value };
  });

  box.addEventListener("pointermove", (event) => {
    if (!drag || drag.id !== event.pointerId) return;
    if (!drag.moving) {
      const way = SIDEWAYS.has(drag.key) ? event.clientX - drag.x : event.clientY - drag.y;
      if (Math.abs(way) < MEANT_PX) return;
      drag.moving = true;
      box.setPointerCapture(event.pointerId);
    }
    const across = (event.clientX - drag.x) * drag.size;
    const amps = ((drag.y - event.clientY) * drag.size) / drag.scale;
    const { from } = drag;
    const moved = {
      ep_share: () => from.ep_share + across / drag.cycle,
      frequency_hz: () => (from.frequency_hz * drag.cycle) / Math.max(drag.cycle * 0.1, drag.cycle + across),
      amps_set: () => from.amps_set - amps,
      ep_trim: () => (from.amps_set * (1 + from.ep_trim) + amps) / from.amps_set - 1,
    }[drag.key]();
    lanes.get(drag.key).set(moved);
  });

  box.addEventListener("pointerup", () => (drag = null));
  box.addEventListener("pointercancel", () => {
    if (drag?.moving) lanes.get(drag.key).set(drag.value, false);
    drag = null;
  });

  box.addEventListener("keydown", (event) => {
    const key = event.target.dataset?.handle;
    const steps = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
    if (!key || !steps || !lanes.has(key)) return;
    event.preventDefault();
    lanes.get(key).by(steps * (event.shiftKey ? 10 : 1));
  });
}
