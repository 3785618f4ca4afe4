// Another tungsten or cup: the load, the drawing and everything that hangs on it follow at once; nothing is kept until it is said.
const form = document.getElementById("torch-form");
const CFH_PER_L_MIN = 2.118880;
let asked = 0;

async function ask() {
  const number = ++asked;
  const answer = await fetch(`/api/jobs/${form.dataset.job}/torch`, { method: "POST", body: new FormData(form) });
  const seen = await answer.json();
  if (number !== asked || !answer.ok) return;
  document.getElementById("torch-live").innerHTML = seen.live;
  document.getElementById("section").innerHTML = seen.section;
  showFlow(seen.flow_l_min);
}

const litres = document.getElementById("flow-l");
const feet = document.getElementById("flow-cfh");

function showFlow(flow) {
  litres.value = flow.toFixed(1);
  feet.value = (flow * CFH_PER_L_MIN).toFixed(0);
}

function typed(field) {
  return Number(field.value.replace(",", "."));
}

if (form) {
  form.addEventListener("change", ask);
  litres.addEventListener("input", () => {
    if (typed(litres) > 0) feet.value = (typed(litres) * CFH_PER_L_MIN).toFixed(0);
  });
  feet.addEventListener("input", () => {
    if (typed(feet) > 0) litres.value = (typed(feet) / CFH_PER_L_MIN).toFixed(1);
  });
}
