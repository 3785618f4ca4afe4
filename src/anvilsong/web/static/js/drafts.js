// What is typed into a form stays in this browser until it is stored: a reload, a switch of units, another station, or a server
// that does not answer loses nothing. Forms say by data-draft under which name.
import { isUp } from "./server.js";

const SKIPPED = new Set(["uid", "revision", "from_revision", "seen", "was_title", "was_welder", "exact"]);
const keyOf = (form) => `form:${form.dataset.draft}`;

function fieldsOf(form) {
  return [...form.elements].filter((field) => field.name && !SKIPPED.has(field.name) && !["hidden", "file", "submit", "button"].includes(field.type));
}

function valueOf(field) {
  return field.type === "checkbox" || field.type === "radio" ? field.checked : field.value;
}

// A bare number keeps the unit it was typed in when the page comes back in other units.
function withUnit(field, kept) {
  const unit = field.dataset.unit;
  const bare = typeof kept.value === "string" && /^[-−+]?[\d.,\s]+$/.test(kept.value.trim()) && kept.value.trim() !== "";
  return unit && kept.unit && unit !== kept.unit && bare ? `${kept.value.trim()} ${kept.unit}` : kept.value;
}

function read(form) {
  try {
    return JSON.parse(localStorage.getItem(keyOf(form))) ?? null;
  } catch {
    return null;
  }
}

function idOf(field) {
  return field.type === "radio" ? `${field.name}=${field.value}` : field.name;
}

function changesOf(form, first) {
  const changed = {};
  for (const field of fieldsOf(form)) if (valueOf(field) !== first.get(idOf(field))) changed[idOf(field)] = { value: valueOf(field), unit: field.dataset.unit };
  return changed;
}

function keep(form, first) {
  const changed = changesOf(form, first);
  if (Object.keys(changed).length) localStorage.setItem(keyOf(form), JSON.stringify(changed));
  else localStorage.removeItem(keyOf(form));
}

function bringBack(form, kept) {
  if (!kept) return false;
  let any = false;
  for (const field of fieldsOf(form)) {
    const was = kept[idOf(field)];
    if (!was || field.dataset.given) continue; // what a photograph says goes before what was typed
    any = true;
    if (field.type === "checkbox" || field.type === "radio") field.checked = was.value;
    else field.value = withUnit(field, was);
    field.closest("details")?.setAttribute("open", "");
  }
  return any;
}

const firstOf = (form) => new Map(fieldsOf(form).map((field) => [idOf(field), valueOf(field)]));

// A coupon is kept by the worker when there is no network.
const isKept = (form) => Boolean(navigator.serviceWorker?.controller) && /^\/jobs\/\d+\/coupon$/.test(new URL(form.action).pathname);

// Small forms without a draft carry what is typed over a switch of units, and no further.
function carryOver() {
  const small = [...document.querySelectorAll('form[method="post"]')].filter((form) => !form.dataset.draft && [...form.elements].some((field) => field.dataset.unit));
  const first = small.map(firstOf);
  const carried = JSON.parse(sessionStorage.getItem("carried") ?? "null");
  sessionStorage.removeItem("carried");
  if (carried?.path === location.pathname) {
    small.forEach((form, place) => {
      // The page's own script listens once everything is there.
      if (bringBack(form, carried.forms[place])) addEventListener("load", () => form.dispatchEvent(new Event("input", { bubbles: true })));
    });
  }
  document.querySelector('form[action="/units"]')?.addEventListener("submit", () => {
    const forms = small.map((form, place) => changesOf(form, first[place]));
    sessionStorage.setItem("carried", JSON.stringify({ path: location.pathname, forms }));
  });
}

function tellOfIt(form, first) {
  const line = document.createElement("div");
  line.className = "told draft-back";
  line.setAttribute("role", "status");
  const words = document.createElement("p");
  words.textContent = "What you typed here before is back. It is not stored yet.";
  const drop = document.createElement("button");
  drop.type = "button";
  drop.className = "quiet";
  drop.textContent = "Delete it";
  drop.addEventListener("click", () => {
    for (const field of fieldsOf(form)) {
      const was = first.get(idOf(field));
      if (field.type === "checkbox" || field.type === "radio") field.checked = was;
      else field.value = was;
    }
    localStorage.removeItem(keyOf(form));
    line.remove();
    form.dispatchEvent(new Event("input", { bubbles: true }));
  });
  line.append(words, drop);
  form.prepend(line);
}

function follow(form) {
  const first = firstOf(form);
  const sent = sessionStorage.getItem("sent") === form.dataset.draft;
  const refused = document.querySelector("[data-refused]");
  if (refused) keep(form, new Map()); // the refused page shows everything as it was typed
  else if (bringBack(form, read(form)) && !sent) tellOfIt(form, first);
  form.addEventListener("input", () => keep(form, first));
  form.addEventListener("change", () => keep(form, first));
  form.addEventListener("submit", async (event) => {
    if (form.dataset.sending) return;
    if (isKept(form)) {
      sessionStorage.setItem("sent", form.dataset.draft);
      return;
    }
    event.preventDefault();
    if (!(await isUp())) return;
    form.dataset.sending = "1";
    sessionStorage.setItem("sent", form.dataset.draft);
    form.requestSubmit(event.submitter?.form === form ? event.submitter : undefined);
  });
}

// The page after a form was sent: stored, unless it says that something was refused.
const sent = sessionStorage.getItem("sent");
if (sent && !document.querySelector("[data-refused]")) localStorage.removeItem(`form:${sent}`);
for (const form of document.querySelectorAll("form[data-draft]")) follow(form);
carryOver();
sessionStorage.removeItem("sent");
addEventListener("pageshow", (event) => {
  if (event.persisted) for (const form of document.querySelectorAll("form[data-draft]")) delete form.dataset.sending;
});
