// A coupon asks which settings were run when the board has changes that were not kept.
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
