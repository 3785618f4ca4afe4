// What it will do: margins, warnings, set line. Values come from the server; this only writes them down, and only what is another.
import { isNew, say } from "./paint.js";

const levels = { stop: "Stop", watch: "Watch", note: "Note" };

export function showMargins(margins) {
  const list = document.getElementById("margins");
  if (list.children.length !== 2 * margins.length) list.innerHTML = margins.map(() => '<dt></dt><dd><span class="bar"><span></span></span><b></b></dd>').join("");
  margins.forEach((margin, n) => {
    const [name, bar] = [list.children[2 * n], list.children[2 * n + 1]];
    say(name, margin.words);
    if (bar.className !== margin.state) bar.className = margin.state;
    bar.querySelector(".bar > span").style.width = `${Math.min(100, margin.used * 100)}%`;
    say(bar.querySelector("b"), margin.said);
  });
}

export function showWarnings(warnings) {
  lines("stop-line", warnings.filter((each) => each.level === "stop").map((each) => `Stop ${each.message}`));
  const list = document.getElementById("warnings");
  if (!isNew(list, warnings)) return;
  list.replaceChildren(
    ...warnings.map((warning) => {
      const line = document.createElement("li");
      line.className = warning.level;
      const level = document.createElement("b");
      level.textContent = levels[warning.level];
      line.append(level, ` ${warning.message}`);
      return line;
    }),
  );
}

export function showPanel(panel, lanes) {
  for (const line of panel.lines) {
    const place = document.querySelector(`#set-line [data-set="${line.setting}"]`);
    if (!place) continue;
    if (!isNew(place, line)) continue;
    say(place.querySelector(".on-panel b"), line.shown);
    place.classList.toggle("clipped", line.clipped);
    place.title = line.said;
    for (const also of document.querySelectorAll(`[data-panel-of="${line.setting}"]`)) say(also, `${line.shown} ${line.unit}`.trim());
  }
  for (const [key, lane] of lanes) {
    const place = document.querySelector(`#set-line [data-set="${key}"]`);
    if (!place) continue;
    place.classList.toggle("changed", lane.isChanged());
    const everywhere = key === "flow_l_min" || key === "amps_run"; // these stand on no panel
    for (const figure of place.querySelectorAll(everywhere ? "b" : ".canonical b, .also span")) say(figure, lane.field.value);
  }
}

function lines(id, words) {
  const list = document.getElementById(id);
  if (!list || !isNew(list, words)) return;
  list.replaceChildren(
    ...words.map((text) => {
      const line = document.createElement("li");
      line.textContent = text;
      return line;
    }),
  );
}

export function showDifferences(differences) {
  lines("differences", differences);
}

export function showFigures(figures) {
  const list = document.getElementById("figures");
  if (!list || !isNew(list, figures)) return;
  list.replaceChildren(
    ...figures.map(([words, value]) => {
      const pair = document.createElement("div");
      const name = document.createElement("dt");
      const figure = document.createElement("dd");
      name.textContent = words;
      figure.textContent = value;
      pair.append(name, figure);
      return pair;
    }),
  );
}

// Lanes that fight: the words on top, and a line down the margin from one lane to the other, drawn with the next frame, when the
// lanes stand where they will.
export function showTies(ties) {
  lines("ties", ties.map((tie) => tie.words));
  const drawing = document.getElementById("tie-lines");
  if (!isNew(drawing, ties)) return;
  for (const lane of document.querySelectorAll(".lane")) lane.classList.toggle("tied", ties.some((tie) => tie.a === lane.dataset.key || tie.b === lane.dataset.key));
  requestAnimationFrame(() => drawTies(drawing, ties));
}

function drawTies(drawing, ties) {
  const board = document.getElementById("board").getBoundingClientRect();
  const middle = (key) => {
    const track = document.querySelector(`.lane[data-key="${key}"] .track`);
    if (!track?.checkVisibility()) return null;
    const box = track.getBoundingClientRect();
    return box.top - board.top + box.height / 2;
  };
  drawing.style.height = `${board.height}px`;
  drawing.innerHTML = ties
    .map((tie, place) => [middle(tie.a), middle(tie.b), 4 + (place % 3) * 4])
    .filter(([a, b]) => a !== null && b !== null)
    .map(([a, b, x]) => `<path d="M ${x + 8} ${a} H ${x} V ${b} H ${x + 8}"/>`)
    .join("");
}
