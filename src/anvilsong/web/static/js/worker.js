// Stands between a phone's browser and the shop's network. Pages that were seen (first page, job, card, coupon form and
// their files) are shown again when there is no network, and say of when they are. A coupon that is recorded then is
// kept here and sent when the network is back; what the server does not take stays, and is told.
const PAGES = "pages", FILES = "files";
const MOST_PAGES = 30, MOST_FILES = 300;
const KEPT_PAGES = /^\/(?:$|jobs\/\d+\/(?:job|tune|torch|card|coupon|read)$)/;
const KEPT_FORMS = /^\/jobs\/\d+\/coupon$/;

addEventListener("install", () => skipWaiting());
addEventListener("activate", (event) => event.waitUntil(clients.claim()));

addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (url.origin !== location.origin) return;
  if (request.method === "POST" && request.mode === "navigate" && KEPT_FORMS.test(url.pathname)) event.respondWith(sendOrKeep(request));
  else if (request.method !== "GET") return;
  else if (request.mode === "navigate") event.respondWith(pageOf(event, url));
  else if (url.pathname.startsWith("/static/")) event.respondWith(fileOf(event));
});

addEventListener("sync", (event) => event.waitUntil(sendKept()));

addEventListener("message", (event) => {
  const { what, addresses = [], key } = event.data ?? {};
  const answer = (said) => event.ports[0]?.postMessage(said);
  const work = { keep: () => keepAll(addresses), send: sendKept, list: listed, drop: () => drop(key), claim: () => clients.claim() }[what];
  if (work) event.waitUntil(work().then(answer, () => answer(null)));
});

async function pageOf(event, url) {
  const { request } = event;
  try {
    const response = await fetch(request);
    if (response.ok && KEPT_PAGES.test(url.pathname)) event.waitUntil(put(PAGES, request.url, response.clone(), MOST_PAGES));
    return response;
  } catch {
    const cache = await caches.open(PAGES);
    const kept = (await cache.match(request.url)) ?? (await cache.match(request.url, { ignoreSearch: true }));
    return kept ? marked(kept) : nothingKept(await cache.keys());
  }
}

// The page as it was kept, with the moment on its root, for the frame to say. Its forms get marks of their own, so that
// two coupons typed into one kept page are two.
async function marked(kept) {
  const text = (await kept.text()).replace(/name="uid" value="[0-9a-f]{32}"/g, () => `name="uid" value="${freshMark()}"`);
  const at = kept.headers.get("date") ?? "";
  const headers = new Headers(kept.headers);
  for (const name of ["content-encoding", "content-length"]) headers.delete(name);
  return new Response(text.replace("<html ", `<html data-kept-at="${escaped(at)}" `), { headers });
}

function freshMark() {
  return [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}

function nothingKept(keys) {
  const links = keys.map(({ url }) => new URL(url)).map(({ pathname, search }) => `<li><a href="${escaped(pathname + search)}">${escaped(pathname)}</a></li>`);
  return simplePage("No network", `<p>This page was not saved on this device. These were:</p><ul>${links.join("") || "<li>none</li>"}</ul>`, 503);
}

async function fileOf(event) {
  const { request } = event;
  const cache = await caches.open(FILES);
  const kept = await cache.match(request.url);
  if (kept) return kept;
  const response = await fetch(request);
  if (response.ok) event.waitUntil(put(FILES, request.url, response.clone(), MOST_FILES));
  return response;
}

async function put(name, address, response, most) {
  const cache = await caches.open(name);
  await cache.delete(address); // the newest stands last
  await cache.put(address, response);
  const keys = await cache.keys();
  for (const old of keys.slice(0, Math.max(0, keys.length - most))) await cache.delete(old);
}

// What a page loaded before this worker stood here, and the page itself.
async function keepAll(addresses) {
  for (const address of addresses) {
    const url = new URL(address, location.href);
    if (url.origin !== location.origin) continue;
    const name = url.pathname.startsWith("/static/") ? FILES : KEPT_PAGES.test(url.pathname) ? PAGES : null;
    if (!name || (name === FILES && (await (await caches.open(FILES)).match(url.href)))) continue;
    const response = await fetch(url.href).catch(() => null);
    if (response?.ok && !response.redirected) await put(name, url.href, response, name === FILES ? MOST_FILES : MOST_PAGES);
  }
  return true;
}

async function sendOrKeep(request) {
  const copy = request.clone();
  try {
    return await fetch(request);
  } catch {
    const item = { address: copy.url, body: await copy.text(), at: new Date().toISOString(), trouble: "" };
    await store("readwrite", (kept) => kept.add(item));
    registration.sync?.register("send-kept").catch(() => undefined); // nobody waits: some browsers never say yes
    const back = escaped(new URL(copy.url).pathname);
    return simplePage("Saved on this device", `<p>There is no network. The coupon is saved here and is sent when the network is back: leave this page open, or open any page of the workshop then.</p><p><a href="${back}">Another coupon</a> <a href="${back.replace(/coupon$/, "card")}">Card</a></p>`, 200, "data-sent-later");
  }
}

let sending = null;

// All that is kept, in its order; one turn at a time, whoever asks.
function sendKept() {
  sending ??= sendInOrder().finally(() => {
    sending = null;
  });
  return sending;
}

async function sendInOrder() {
  const sent = [];
  for (const item of await listed()) {
    if (item.trouble) continue;
    let response;
    try {
      response = await fetch(item.address, { method: "POST", body: item.body, redirect: "follow", headers: { "content-type": "application/x-www-form-urlencoded", accept: "text/html" } });
    } catch {
      break; // still no network
    }
    const path = new URL(response.url).pathname;
    if (response.redirected && path === "/enter") break; // somebody must come in first; nothing was stored
    if (response.ok && response.redirected) {
      await drop(item.key);
      sent.push(path);
    } else if (![408, 429, 502, 503, 504, 507].includes(response.status)) {
      const trouble = inWords(await response.text());
      await store("readwrite", (kept) => kept.put({ ...item, trouble }, item.key));
    }
  }
  return { sent, left: await listed() };
}

// What an answer page says went wrong.
function inWords(page) {
  const box = /class="problem-box"[^>]*>([\s\S]*?)<\/div>/.exec(page)?.[1] ?? /<h1[^>]*>([\s\S]*?)<\/h1>/.exec(page)?.[1] ?? "";
  return box.replace(/<[^>]+>/g, " ").replace(/\s+/g, " ").trim() || "The server did not take it.";
}

function database() {
  return new Promise((resolve, reject) => {
    const opening = indexedDB.open("kept", 1);
    opening.onupgradeneeded = () => opening.result.createObjectStore("forms", { autoIncrement: true });
    opening.onsuccess = () => resolve(opening.result);
    opening.onerror = () => reject(opening.error);
  });
}

async function store(mode, use) {
  const base = await database();
  try {
    return await new Promise((resolve, reject) => {
      const transaction = base.transaction("forms", mode);
      const asked = use(transaction.objectStore("forms"));
      transaction.oncomplete = () => resolve(asked?.result);
      transaction.onabort = transaction.onerror = () => reject(transaction.error);
    });
  } finally {
    base.close();
  }
}

async function listed() {
  const items = [];
  await store("readonly", (kept) => {
    kept.openCursor().onsuccess = ({ target: { result: cursor } }) => {
      if (!cursor) return;
      items.push({ ...cursor.value, key: cursor.primaryKey });
      cursor.continue();
    };
  });
  return items;
}

async function drop(key) {
  await store("readwrite", (kept) => kept.delete(key));
  return true;
}

function escaped(text) {
  return text.replace(/[&<>"']/g, (letter) => `&#${letter.charCodeAt(0)};`);
}

function simplePage(title, body, status, mark = "") {
  const style = "body{font:18px/1.5 sans-serif;max-width:34em;margin:10vh auto;padding:0 16px;color:#1d2125;background:#f3f0e8}a{color:#146a80;display:inline-block;min-height:44px;margin-right:24px}";
  const html = `<!doctype html><html lang="en" ${mark}><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${title}</title><style>${style}</style></head><body><h1>${title}</h1>${body}</body></html>`;
  return new Response(html, { status, headers: { "content-type": "text/html; charset=utf-8" } });
}
