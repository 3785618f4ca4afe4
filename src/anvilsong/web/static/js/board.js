// The board: lanes are dragged, stepped and typed; every change asks the server and redraws what it will do.
import { Lane } from "./lane.js";
import { showMargins, showPanel, showWarnings } from "./outcome.js";

const { job, settings } = JSON.parse(document.getElementById("state").textContent);
const paths = { flow_l_min: ["gas", "flow_l_min"] };
const faces = ["panel", "margins", "section", "wave"];
let asked = 0;
let waiting = false;

function put(key, value) {
  const path = paths[key] ?? [key];
  const group = path.slice(0, -1).reduce((inside, name) => inside[name], settings);
  if (key === "amps_set") settings.amps_run *= value / settings.amps_set; // the foot's share stays
  group[path.at(-1)] = value;
}

async function ask() {
  const number = ++asked;
  const answer = await fetch("/api/consequences", {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ job, settings, show: faces }),
  });
  if (number !== asked) return; // a newer question is under way
  const seen = await answer.json();
  if (!answer.ok) {
    showWarnings([{ level: "stop", message: seen.detail }]);
    return;
  }
  document.getElementById("section").innerHTML = seen.section;
  document.getElementById("wave").innerHTML = seen.wave;
  showMargins(seen.margins);
  showWarnings(seen.warnings);
  showPanel(seen.panel, lanes);
}

// One question a frame is enough however fast the tab moves.
function soon() {
  if (waiting) return;
  waiting = true;
  requestAnimationFrame(() => {
    waiting = false;
    ask();
  });
}

const lanes = new Map();
for (const element of document.querySelectorAll(".lane")) {
  const lane = new Lane(element, (key, value) => {
    put(key, value);
    soon();
  });
  lanes.set(lane.key, lane);
}

document.getElementById("back-to-plan").addEventListener("click", () => {
  for (const lane of lanes.values()) lane.set(lane.planned);
});
