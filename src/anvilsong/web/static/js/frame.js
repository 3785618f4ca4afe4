// The frame's own keys and switches: theme, canonical words, key list, stations by number.
const root = document.documentElement;

function isDark() {
  return root.dataset.theme === "dark" || (root.dataset.theme !== "light" && matchMedia("(prefers-color-scheme: dark)").matches);
}

document.getElementById("theme")?.addEventListener("click", () => {
  root.dataset.theme = isDark() ? "light" : "dark";
  localStorage.setItem("theme", root.dataset.theme);
});

const canonical = document.getElementById("canonical");
function showCanonical(on) {
  document.body.classList.toggle("canonical-words", on);
  canonical?.setAttribute("aria-pressed", String(on));
}
canonical?.addEventListener("click", () => {
  const on = !document.body.classList.contains("canonical-words");
  showCanonical(on);
  sessionStorage.setItem("canonical", on ? "1" : "");
});
if (canonical) showCanonical(sessionStorage.getItem("canonical") === "1");

document.getElementById("problems")?.focus();

// Leaving takes along what this browser saved, also where it does not heed the server's word (without a certificate).
document.querySelector('form[action="/leave"]')?.addEventListener("submit", () => {
  localStorage.clear();
  sessionStorage.clear();
});

// Units switched in another window: this page comes back in them, its drafts with the units they were typed in.
function sameUnits() {
  const chosen = /(?:^|; )units=(mm|inch)/.exec(document.cookie)?.[1] ?? "mm";
  // The answer to a form stays in the units that it was typed in: to ask for it again would send the form again.
  if (chosen !== root.dataset.units && !root.dataset.posted) location.reload();
}
addEventListener("focus", sameUnits);
addEventListener("pageshow", sameUnits);
document.addEventListener("visibilitychange", sameUnits);

// A page that comes back by a step back in the browser is another page: what is sent from it now is no repetition.
function freshMarks() {
  for (const field of document.querySelectorAll('input[type="hidden"][name="uid"]')) {
    field.value = [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  }
}
addEventListener("pageshow", (event) => {
  if (event.persisted || performance.getEntriesByType("navigation")[0]?.type === "back_forward") freshMarks();
});

// On a narrow screen the rail lies over the page's foot: what takes the focus comes out from under it.
const rail = document.querySelector(".rail");
document.addEventListener("focusin", (event) => {
  if (getComputedStyle(rail).position !== "fixed" || rail.contains(event.target)) return;
  if (event.target.getBoundingClientRect().bottom > rail.getBoundingClientRect().top) event.target.scrollIntoView({ block: "center" });
});

const list = document.getElementById("key-list");
document.getElementById("print")?.addEventListener("click", () => print());
for (const choice of document.querySelectorAll(".card-tools input")) choice.addEventListener("change", () => choice.form.submit());

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.target.closest("input, textarea, select, dialog")) {
    if (event.key === "Escape") event.target.blur();
    return;
  }
  if (event.key === "/") {
    event.preventDefault();
    document.getElementById("find").focus();
  } else if (event.key === "?") {
    list.showModal();
  } else if (event.key === "w") {
    document.getElementById("wrong").click();
  } else if (event.key === "c") {
    document.getElementById("to-card")?.click();
  } else if (/^[1-9]$/.test(event.key) && !event.target.closest("[role=slider]")) {
    document.querySelector(`.rail [data-key="${event.key}"]`)?.click();
  }
});
