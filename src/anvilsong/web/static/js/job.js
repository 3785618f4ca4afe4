// The joint is drawn as it is typed; what is wrong is told beside the drawing until the form is sent.
const form = document.getElementById("job-form");
const drawing = document.getElementById("joint-drawing");
const said = document.getElementById("joint-said");
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
  if (!form.elements.a_alloy.value.trim() || !form.elements.a_thickness.value.trim()) return;
  const answer = await (await fetch("/api/draw/joint", { method: "POST", body: new FormData(form) })).json();
  if (number !== asked) return;
  if (answer.drawing) drawing.innerHTML = answer.drawing;
  const problems = answer.problems.map((problem) => line(problem.said, "problem"));
  const stops = (answer.stops ?? []).map((stop) => line(stop, "stop-words"));
  said.replaceChildren(...problems, ...stops);
  if (answer.fillers !== undefined) document.getElementById("fillers").innerHTML = answer.fillers;
}

form.addEventListener("input", () => {
  clearTimeout(timer);
  timer = setTimeout(draw, 150);
});
draw();

// A welder brings the school they like along.
const schools = JSON.parse(document.getElementById("welder-schools").textContent);
form.elements.welder.addEventListener("change", () => {
  for (const [question, school] of Object.entries(schools[form.elements.welder.value] ?? {})) {
    const field = form.elements[`school_${question}`];
    if (field) field.value = school;
  }
});
