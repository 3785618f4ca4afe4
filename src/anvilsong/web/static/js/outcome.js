// What it will do: margins, warnings, set line. Values come from the server; this only writes them down.
const levels = { stop: "Stop", watch: "Watch", note: "Note" };

export function showMargins(margins) {
  const list = document.getElementById("margins");
  list.replaceChildren(
    ...margins.flatMap((margin) => {
      const name = document.createElement("dt");
      name.textContent = margin.words;
      const bar = document.createElement("dd");
      bar.className = margin.state;
      bar.innerHTML = '<span class="bar"><span></span></span><b></b>';
      bar.querySelector(".bar > span").style.width = `${Math.min(100, margin.used * 100)}%`;
      bar.querySelector("b").textContent = margin.said;
      return [name, bar];
    }),
  );
}

export function showWarnings(warnings) {
  document.getElementById("warnings").replaceChildren(
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
    place.querySelector(".on-panel b").textContent = line.shown;
    place.classList.toggle("clipped", line.clipped);
    place.title = line.said;
  }
  for (const [key, lane] of lanes) {
    const place = document.querySelector(`#set-line [data-set="${key}"]`);
    if (!place) continue;
    place.classList.toggle("changed", lane.isChanged());
    for (const figure of place.querySelectorAll(key === "flow_l_min" ? "b" : ".canonical b")) figure.textContent = lane.field.value;
  }
}
