// Causes and checks of the sign that is chosen; those of other signs are put away. A picture that was not there yet is asked for again.
const AGAIN_MS = 2500;
const TRIES = 6;

const form = document.getElementById("question");
const groups = form.querySelectorAll("[data-of-sign]");

function follow() {
  const sign = form.querySelector('input[name="sign"]:checked')?.value;
  for (const group of groups) group.hidden = group.dataset.ofSign !== sign;
  document.getElementById("first-a-sign").hidden = Boolean(sign);
}

if (groups.length > 0) {
  form.addEventListener("change", follow);
  follow();
}

for (const picture of form.querySelectorAll("img")) {
  let left = TRIES;
  const again = () => {
    if (left-- > 0) setTimeout(() => (picture.src = picture.getAttribute("src")), AGAIN_MS);
  };
  picture.addEventListener("error", again);
  if (picture.complete && picture.naturalWidth === 0) again();
}
