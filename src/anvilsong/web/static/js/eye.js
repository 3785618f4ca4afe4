// Causes and checks of the sign that is chosen; those of other signs are put away.
const form = document.getElementById("question");
const groups = form.querySelectorAll("[data-of-sign]");

function follow() {
  const sign = form.querySelector('input[name="sign"]:checked')?.value;
  for (const group of groups) group.hidden = group.dataset.ofSign !== sign;
  document.getElementById("first-a-sign").hidden = Boolean(sign);
}

form.addEventListener("change", follow);
follow();
