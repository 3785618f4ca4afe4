// The joint is drawn as it is typed; what is wrong is told beside the drawing until the form is sent.
const form = document.getElementById("job-form");
const drawing = document.getElementById("joint-drawing");
const said = document.getElementById("joint-said");
const isOld = Boolean(form.elements.from_revision);
let timer = 0;
let asked = 0;

function line(words, css) {
  const paragraph = document.createElement("p");
  paragraph.className = css;
  paragraph.textContent = words;
  return paragraph;
}

async function draw() {
  const number = ++asked;
  const answer = await (await fetch("/api/draw/joint", { method: "POST", body: new FormData(form) })).json();
  if (number !== asked) return;
  if (answer.drawing) drawing.innerHTML = answer.drawing;
  const problems = answer.problems.map((problem) => line(problem.said, "problem"));
  const stops = (answer.stops ?? []).map((stop) => line(stop, "stop-words"));
  said.replaceChildren(...problems, ...stops);
  document.getElementById("joint-sample").hidden = !answer.sample;
  if (answer.title !== undefined) form.elements.title.placeholder = answer.title || "named for you";
  if (answer.assumed && !isOld) document.getElementById("assumed-words").textContent = answer.assumed;
  if (answer.fillers !== undefined) document.getElementById("fillers").innerHTML = answer.fillers;
}

// What the shop has proved before, nearest first: asked when the hands rest.
const nearest = document.getElementById("nearest");
let later = 0;
let lookedUp = 0;

async function lookUp() {
  if (!nearest) return;
  const number = ++lookedUp;
  const answer = await (await fetch("/api/recipes/nearest", { method: "POST", body: new FormData(form) })).json();
  if (number === lookedUp) nearest.innerHTML = answer.nearest ?? "";
}

form.addEventListener("input", () => {
  clearTimeout(timer);
  clearTimeout(later);
  timer = setTimeout(draw, 150);
  later = setTimeout(lookUp, 600);
});
draw();
lookUp();

// A welder brings the school they like along.
const schools = JSON.parse(document.getElementById("welder-schools").textContent);
form.elements.welder.addEventListener("change", () => {
  for (const [question, school] of Object.entries(schools[form.elements.welder.value] ?? {})) {
    const field = form.elements[`school_${question}`];
    if (field) field.value = school;
  }
});
