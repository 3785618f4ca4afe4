// Work in progress on the board, kept in this browser until it is stored: it survives leaving, reload, and a stopped server.
const keyOf = (job) => `board:${job}`;

export function readDraft(job) {
  try {
    const draft = JSON.parse(localStorage.getItem(keyOf(job)));
    return draft?.settings && draft?.base ? draft : null;
  } catch {
    return null;
  }
}

export function writeDraft(job, draft) {
  localStorage.setItem(keyOf(job), JSON.stringify(draft));
}

export function dropDraft(job) {
  localStorage.removeItem(keyOf(job));
}

const GROUPS = ["pulse", "mix"];

// Every value of settings by its path, pulse and mix as one piece each.
export function flat(settings, path = "") {
  const found = new Map();
  for (const [name, value] of Object.entries(settings)) {
    const here = path ? `${path}.${name}` : name;
    if (value !== null && typeof value === "object" && !GROUPS.includes(here)) for (const [inner, deep] of flat(value, here)) found.set(inner, deep);
    else found.set(here, JSON.stringify(value));
  }
  return found;
}

export function same(a, b) {
  const [one, other] = [flat(a), flat(b)];
  return one.size === other.size && [...one].every(([path, value]) => other.get(path) === value);
}

// What the draft changed, on top of settings that may have moved on since.
export function onTop(draft, now) {
  const [base, mine] = [flat(draft.base), flat(draft.settings)];
  const merged = structuredClone(now);
  for (const [path, value] of mine) {
    if (base.get(path) === value) continue;
    const names = path.split(".");
    const inside = names.slice(0, -1).reduce((group, name) => (group[name] ??= {}), merged);
    inside[names.at(-1)] = JSON.parse(value);
  }
  return merged;
}
