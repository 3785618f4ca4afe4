// The hand on a run: a slider under a finger, arrow keys, the wheel, a game controller's or a USB pedal's axis. What is sent is the
// newest place, at most once a picture.
import { followController } from "./controller.js";

const WHEEL = 0.03;
const KEY = 0.05;

export function hold({ moves, canvas, send }) {
  const pedal = document.getElementById("pedal");
  const travel = document.getElementById("travel");
  const trigger = document.getElementById("trigger");
  const springs = document.getElementById("springs");
  const range = pedal ?? travel;
  const shown = document.getElementById(pedal ? "pedal-shown" : "travel-shown");
  let asked = 0;
  let isOn = false;

  const message = () => (moves === "pedal" ? { pedal: range.value / 100 } : { travel: range.value / 100, pedal: isOn ? 1 : 0 });

  function tell() {
    shown.textContent = `${range.value} %`;
    if (asked) return;
    asked = requestAnimationFrame(() => {
      asked = 0;
      send(message());
    });
  }

  function put(share) {
    if (range.disabled) return;
    const value = Math.round(Math.min(Math.max(share, 0), range.max / 100) * 100);
    if (value === Number(range.value)) return;
    range.value = value;
    tell();
  }

  const letGo = () => {
    if (pedal && springs?.checked !== false) put(0);
  };

  range.addEventListener("input", tell);
  for (const gone of ["pointerup", "pointercancel", "lostpointercapture"]) range.addEventListener(gone, letGo);
  const keyed = (event) => {
    if (event.key === " " && trigger && event.currentTarget === range) {
      event.preventDefault();
      if (!event.repeat) trigger.click();
      return;
    }
    const steps = { ArrowUp: KEY, ArrowRight: KEY, ArrowDown: -KEY, ArrowLeft: -KEY, PageUp: 4 * KEY, PageDown: -4 * KEY };
    if (!(event.key in steps)) return;
    event.preventDefault();
    put(range.value / 100 + steps[event.key]);
  };
  range.addEventListener("keydown", keyed);
  trigger?.addEventListener("keydown", keyed);
  canvas?.addEventListener(
    "wheel",
    (event) => {
      if (range.disabled) return;
      event.preventDefault();
      put(range.value / 100 - Math.sign(event.deltaY) * WHEEL);
    },
    { passive: false },
  );
  trigger?.addEventListener("click", () => {
    isOn = !isOn;
    trigger.setAttribute("aria-pressed", String(isOn));
    send(message());
  });

  followController((share) => put(moves === "pedal" ? share : 2 * share));

  return {
    reset() {
      isOn = false;
      trigger?.setAttribute("aria-pressed", "false");
      range.value = 0;
      shown.textContent = `${range.value} %`;
    },
  };
}
