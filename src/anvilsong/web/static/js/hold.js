// A finger on a handle drags it and never scrolls the page. `touch-action` does nothing on the inside of an SVG, so the first
// touch is taken here; the pointer's own events go on as they are.
export function holdFingers(root, isHeld) {
  root.addEventListener(
    "touchstart",
    (event) => {
      if (event.touches.length === 1 && event.cancelable && isHeld(event.target)) event.preventDefault();
    },
    { passive: false },
  );
}
