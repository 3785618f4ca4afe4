// Runs before the page is drawn, so that a dark shop sees no flash of paper.
(() => {
  const kept = localStorage.getItem("theme");
  if (kept) document.documentElement.dataset.theme = kept;
  document.documentElement.classList.add("js");
})();
