// The panel editor is checked for sense as it is typed, and the panel drawn as it would stand for a plain job.
const form = document.getElementById("machine-form");
const said = document.getElementById("machine-said");
let timer = 0;
let asked = 0;

// Each quantity offers only the meanings its figure can have.
function offer(row) {
  const setting = row.querySelector("select[name$=setting]").value;
  const basis = row.querySelector("select[name$=basis]");
  for (const option of basis.options) option.hidden = option.disabled = Boolean(option.dataset.for) && option.dataset.for !== setting;
  if (basis.selectedOptions[0]?.disabled) basis.value = "value";
}

async function check() {
  const number = ++asked;
  const answer = await (await fetch("/api/machine/check", { method: "POST", body: new FormData(form) })).json();
  if (number !== asked) return;
  if (answer.drawing !== undefined) document.getElementById("panel-drawing").innerHTML = answer.drawing;
  said.replaceChildren(
    ...answer.problems.map((problem) => {
      const line = document.createElement("p");
      line.className = "problem";
      line.textContent = problem;
      return line;
    }),
  );
}

for (const row of form.querySelectorAll(".control-row:not(.head)")) {
  offer(row);
  row.addEventListener("change", () => offer(row));
}
form.addEventListener("input", () => {
  clearTimeout(timer);
  timer = setTimeout(check, 200);
});
