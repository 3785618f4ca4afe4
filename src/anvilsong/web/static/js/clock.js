// The arc's clock and, when it stops, the gas that goes on: the screen stays awake for both.
let lock = null; // a promise of the system's leave to stay awake; of nothing where it says no

function stayAwake() {
  lock ??= navigator.wakeLock?.request("screen").catch(() => null) ?? null;
}
function mayDim() {
  lock?.then((held) => held?.release());
  lock = null;
}

export function startClock(button, job, stopped) {
  if (!button) return;
  const gas = document.getElementById("gas-left");
  const postFlow = Number(button.dataset.postFlow) || 0;
  // Both go on through a reload: only when the arc began and when the gas ends are stored.
  const began = `clock:${job}`, ends = `gas:${job}`;
  const at = (key) => Number(localStorage.getItem(key)) || 0;

  const show = () => {
    const since = at(began), left = Math.ceil((at(ends) - Date.now()) / 1000);
    button.textContent = since ? `Stop: ${((Date.now() - since) / 1000).toFixed(0)} s` : "Start the clock";
    button.classList.toggle("running", Boolean(since));
    const flows = !since && left > 0;
    gas.hidden = !flows;
    if (flows) gas.textContent = `Gas flows: leave the torch over the end for ${left} s`;
    if (since || flows) stayAwake();
    else mayDim();
  };
  const press = () => {
    const since = at(began);
    if (since) {
      localStorage.removeItem(began);
      if (postFlow) localStorage.setItem(ends, String(Date.now() + 1000 * postFlow));
      stopped(((Date.now() - since) / 1000).toFixed(1));
    } else {
      localStorage.removeItem(ends);
      localStorage.setItem(began, String(Date.now()));
    }
    show();
  };
  button.addEventListener("click", press);
  document.addEventListener("keydown", (event) => {
    if (event.key !== " " || event.repeat || event.target.closest("input, textarea, select, button, summary, a, label")) return;
    event.preventDefault();
    press();
  });
  // The system takes the lock back when the page is left; it is asked for again on return.
  document.addEventListener("visibilitychange", () => {
    if (document.visibilityState === "visible") lock = null;
    show();
  });
  setInterval(show, 500);
  show();
}
