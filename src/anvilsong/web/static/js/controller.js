// A game controller's or a USB pedal's axis, from 0 to 1: triggers give it by themselves, an axis is told by where it rests.
const MOVED = 0.02;

export function followController(told) {
  const rests = new Map();
  let last = 0;
  let polls = false;

  function poll() {
    let most = 0;
    for (const pad of navigator.getGamepads?.() ?? []) {
      if (!pad) continue;
      for (const button of pad.buttons.slice(6, 8)) most = Math.max(most, button.value);
      pad.axes.forEach((value, axis) => {
        const key = `${pad.index}:${axis}`;
        if (!rests.has(key)) rests.set(key, value);
        const rest = rests.get(key);
        most = Math.max(most, Math.abs(value - rest) / (Math.abs(rest) > 0.5 ? 2 : 1));
      });
    }
    if (Math.abs(most - last) > MOVED) {
      last = most;
      told(most);
    }
    requestAnimationFrame(poll);
  }

  const begin = () => {
    if (!polls) requestAnimationFrame(poll);
    polls = true;
  };
  window.addEventListener("gamepadconnected", begin);
  if ([...(navigator.getGamepads?.() ?? [])].some(Boolean)) begin();
}
