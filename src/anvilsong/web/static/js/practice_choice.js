// What an exercise is done on: chosen at once.
for (const select of document.querySelectorAll("#practice-choice select"))
  select.addEventListener("change", () => select.form.requestSubmit());
