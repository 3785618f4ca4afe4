// What this device keeps for where there is no network: says when a page is an old one, tells of coupons that wait, sends
// them when the network is back, and shows what the server did not take.
const root = document.documentElement;

async function ask(what, more = {}) {
  const { active } = await navigator.serviceWorker.ready;
  return new Promise((resolve) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = ({ data }) => resolve(data);
    active.postMessage({ what, ...more }, [port2]);
  });
}

function line(id, words, ...more) {
  document.getElementById(id)?.remove();
  const box = document.createElement("div");
  box.className = "told";
  box.id = id;
  box.setAttribute("role", "status");
  const said = document.createElement("p");
  said.textContent = words;
  box.append(said, ...more);
  document.getElementById("content").prepend(box);
}

function button(words, press) {
  const made = document.createElement("button");
  made.type = "button";
  made.className = "quiet";
  made.textContent = words;
  made.addEventListener("click", press);
  return made;
}

// Sent as a form of a page: the server's answer is a page, with everything that was typed.
async function sendByHand(item) {
  const form = document.createElement("form");
  form.method = "post";
  form.action = item.address;
  for (const [name, value] of new URLSearchParams(item.body)) {
    const field = document.createElement("textarea");
    field.name = name;
    field.value = value;
    form.append(field);
  }
  form.hidden = true;
  document.body.append(form);
  await ask("drop", { key: item.key });
  form.submit();
}

function tell({ sent = [], left = [] }) {
  if (sent.length) {
    const look = document.createElement("a");
    look.href = sent.at(-1);
    look.textContent = "Look at the result";
    line("kept-sent", sent.length === 1 ? "The coupon that was saved on this device is in the logbook now." : `${sent.length} coupons that were saved on this device are in the logbook now.`, look);
  }
  const refused = left.find((item) => item.trouble);
  if (refused) {
    const when = new Date(refused.at).toLocaleString();
    line("kept-refused", `A coupon saved here at ${when} was not taken: ${refused.trouble}`, button("Look at it", () => sendByHand(refused)));
  }
  const waiting = left.filter((item) => !item.trouble).length;
  if (waiting) line("kept-waiting", `${waiting} ${waiting === 1 ? "coupon waits" : "coupons wait"} on this device for the network.`, button("Send now", send));
  else document.getElementById("kept-waiting")?.remove();
}

async function send() {
  const state = await ask("send");
  if (state) tell(state);
}

async function begin() {
  await navigator.serviceWorker.register("/worker.js");
  if (!navigator.serviceWorker.controller) await ask("claim"); // from this page on, not only from the next
  const files = performance.getEntriesByType("resource").map(({ name }) => name);
  if (!root.dataset.keptAt) await ask("keep", { addresses: [location.href, ...files] });
  root.dataset.keeps = "1"; // from here on the page can be opened without the network
  await send();
}

if (root.dataset.keptAt !== undefined) line("kept-page", `No network. This is the page as it stood ${new Date(root.dataset.keptAt).toLocaleString()}.`);
if ("serviceWorker" in navigator) {
  begin().catch(() => undefined); // a browser that allows no worker keeps nothing; everything else works
  addEventListener("online", send);
}
