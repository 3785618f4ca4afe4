// Questions open when the control is there, and the panel is drawn as it is answered.
const form = document.getElementById("machine-guide");
const said = document.getElementById("guide-said");
const drawn = document.getElementById("panel-drawing");
let timer = 0;
let asked = 0;

function isThere(name) {
  const field = form.elements[name];
  return field.type === "checkbox" ? field.checked : Boolean(field.value);
}

// What is folded away is not sent; without a script everything is in view, and whatever is typed counts.
function show(block, on) {
  block.hidden = !on;
  for (const field of block.querySelectorAll("input, select")) field.disabled = !on;
}

function open() {
  for (const block of form.querySelectorAll("[data-asks]")) show(block, isThere(block.dataset.asks));
  for (const block of form.querySelectorAll("[data-asks-not]")) show(block, !isThere(block.dataset.asksNot));
  const own = ["scale", "clock"].includes(form.elements.figure.value) && isThere("has_balance");
  for (const block of form.querySelectorAll("[data-asks-figure]")) show(block, own);
  for (const block of form.querySelectorAll("[data-asks-amps]")) show(block, form.elements.amps_figure.value !== "amps");
}

async function draw() {
  if (!form.elements.amps_high.value.trim()) return;
  const number = ++asked;
  let answer;
  try {
    answer = await (await fetch("/api/machine/guided", { method: "POST", body: new FormData(form) })).json();
  } catch {
    return; // the board says that the server does not answer
  }
  if (number !== asked) return;
  if (answer.drawing !== undefined) drawn.innerHTML = answer.drawing;
  said.textContent = answer.problems.length ? `Still to answer. ${answer.problems.join(" ")}` : "Its panel, set for a plain job.";
}

// The usual least amps, which stand there from the beginning, are no number on a scale of another kind.
form.elements.amps_figure.addEventListener("change", () => {
  const low = form.elements.amps_low;
  if (low.value === low.defaultValue && !low.matches("[aria-invalid]")) low.value = form.elements.amps_figure.value === "amps" ? low.defaultValue : "";
});
open();
// What was typed before comes back after the page is read.
addEventListener("pageshow", () => {
  open();
  draw();
});
form.addEventListener("input", () => {
  open();
  clearTimeout(timer);
  timer = setTimeout(draw, 250);
});
