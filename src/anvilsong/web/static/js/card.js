// A card has what is saved. Where the board of this browser holds something else, that is said, and its card is offered too.
import { onTop, readDraft, same } from "./board_draft.js";

const text = document.getElementById("card-state")?.textContent;
const state = text ? JSON.parse(text) : null;
const draft = state && readDraft(state.job_id);
const board = draft && onTop(draft, state.settings);
if (board && !same(board, state.settings)) {
  const form = document.getElementById("other-board");
  form.elements.settings.value = JSON.stringify(board);
  document.getElementById("other-words").textContent = draft.words?.join(", ") || "look at Tune";
  form.hidden = false;
}
