// Asking the server, and saying so when it does not answer; what was asked then is asked again when it does.
const waiting = new Set();
let timer = 0;

function showSilence(on) {
  let line = document.getElementById("silence");
  if (!line && !on) return;
  if (!line) {
    line = document.createElement("p");
    line.id = "silence";
    line.className = "notice";
    line.setAttribute("role", "alert");
    line.textContent = "The server does not answer. What you typed is still here; this page catches up when it does.";
    document.getElementById("content").prepend(line);
  }
  line.hidden = !on;
}

// One request; null when the server cannot be reached. `again` is called when it answers later.
export async function ask(address, options, again) {
  try {
    const answer = await fetch(address, options);
    if (waiting.size === 0) showSilence(false);
    return answer;
  } catch {
    if (again) waiting.add(again);
    showSilence(true);
    clearTimeout(timer);
    timer = setTimeout(listen, 1500);
    return null;
  }
}

async function listen() {
  try {
    await fetch("/healthz", { cache: "no-store" });
  } catch {
    timer = setTimeout(listen, 1500);
    return;
  }
  showSilence(false);
  const again = [...waiting];
  waiting.clear();
  for (const call of again) call();
}

// Whether the server can be reached right now.
export async function isUp() {
  return (await ask("/healthz", { cache: "no-store" })) !== null;
}

export function askJson(address, body, again) {
  return ask(address, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) }, again);
}
