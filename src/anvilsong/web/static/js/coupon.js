// A coupon asks which settings were run when the board has changes that were not kept; a clock, steppers and what was seen last
// time keep hands in gloves from typing.
import { startClock } from "./clock.js";
import { dropDraft, readDraft, same } from "./board_draft.js";

const form = document.getElementById("coupon-form");
const choice = document.getElementById("which-settings");
const job = form?.dataset.job;
const draft = job && !form.dataset.correcting ? readDraft(job) : null;

if (sessionStorage.getItem("ran-draft") === job && !document.querySelector("[data-refused]")) dropDraft(job);
sessionStorage.removeItem("ran-draft");

if (draft && !same(draft.settings, draft.base) && readDraft(job)) {
  choice.hidden = false;
  choice.querySelector("[data-words]").textContent = draft.words.join(", ") || "pulse or mix";
  const asked = (event) => {
    const answer = form.elements.which_settings.value;
    choice.querySelector(".problem").hidden = Boolean(answer);
    if (!answer) {
      // A coupon must not be recorded against settings that nobody ran.
      event.preventDefault();
      event.stopImmediatePropagation();
      choice.querySelector("input").focus();
      return;
    }
    form.elements.board_settings.value = answer === "board" ? JSON.stringify(draft.settings) : "";
    if (answer === "board") sessionStorage.setItem("ran-draft", job);
  };
  form.addEventListener("submit", asked, true);
}

const told = (field) => field.dispatchEvent(new Event("input", { bubbles: true }));

startClock(document.getElementById("clock"), job, (seconds) => {
  form.elements.seconds.value = seconds;
  told(form.elements.seconds);
});

// A step on a figure with or without its unit; an empty field begins at what the plan expects. A fraction is left as it is.
for (const box of document.querySelectorAll(".stepped")) {
  const field = box.querySelector("input");
  const step = Number(box.dataset.step);
  const places = step < 0.01 ? 3 : step < 1 ? 1 : 0;
  const by = (way) => {
    const found = /^([\d.,]*)(?:\s+(.*)|)$/.exec(field.value.trim());
    if (!found) return;
    const from = found[1] === "" ? Number(box.dataset.start.replace(",", ".")) : Number(found[1].replace(",", ".")) + way * step;
    if (!Number.isFinite(from)) return;
    field.value = `${Math.max(0, from).toFixed(places)}${found[2] ? ` ${found[2]}` : ""}`;
    told(field);
  };
  box.querySelector(".less").addEventListener("click", () => by(-1));
  box.querySelector(".more").addEventListener("click", () => by(1));
}

document.getElementById("as-last")?.addEventListener("click", (event) => {
  for (const [name, value] of Object.entries(JSON.parse(event.target.dataset.last))) {
    const field = form.elements[name];
    if (!field || field.value) continue; // what was said of this coupon stays
    field.value = value;
    told(field instanceof RadioNodeList ? field[0] : field);
  }
});
