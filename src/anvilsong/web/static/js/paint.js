// Painting answers: at most once a frame, the latest one alone, and of it only what differs from what stands there.
const painted = new WeakMap();

const LATE_MS = 28; // after a frame that took longer the next one is given less to do

// A painter for answers, in parts that may be painted apart: what is given is painted with the next frame, and one that is overtaken
// before that is dropped. Where a frame comes late, as on a slow phone, each frame paints one part, of the latest answer.
export function painter(...parts) {
  let latest = null;
  let isFramed = false;
  let isLate = false;
  const due = [];
  const paint = (began) => {
    do due.shift()?.(latest);
    while (due.length && !isLate);
    isFramed = true;
    requestAnimationFrame((next) => {
      isLate = next - began > LATE_MS;
      isFramed = false;
      if (due.length) paint(next);
    });
  };
  const show = (answer) => {
    latest = answer;
    for (const part of parts) if (!due.includes(part)) due.push(part);
    if (isFramed) return;
    isFramed = true;
    requestAnimationFrame(paint);
  };
  // What is not painted yet is not painted any more: something else is to be said.
  show.drop = () => due.splice(0);
  return show;
}

// A drawing into its place. What is the same in both stays as it is, with its focus: a new text costs the browser far more than a
// moved line.
export function put(place, drawing) {
  if (!place || painted.get(place) === drawing) return;
  painted.set(place, drawing);
  const fresh = document.createElement("template");
  fresh.innerHTML = drawing;
  follow(place, fresh.content);
}

// The children of a node made like those of another.
function follow(was, now) {
  const [here, there] = [[...was.childNodes], [...now.childNodes]];
  if (here.length !== there.length) {
    was.replaceChildren(...there);
    return;
  }
  here.forEach((node, n) => {
    const other = there[n];
    if (node.nodeName !== other.nodeName) node.replaceWith(other);
    else if (node.nodeType === Node.ELEMENT_NODE) {
      for (const { name, value } of other.attributes) if (node.getAttribute(name) !== value) node.setAttribute(name, value);
      for (const { name } of [...node.attributes]) if (!other.hasAttribute(name)) node.removeAttribute(name);
      follow(node, other);
    } else if (node.nodeValue !== other.nodeValue) node.nodeValue = other.nodeValue;
  });
}

// Words into their place.
export function say(place, words) {
  if (place.textContent !== words) place.textContent = words;
}

// Whether something else than last time is to be shown in a place.
export function isNew(place, shown) {
  const mark = JSON.stringify(shown);
  if (painted.get(place) === mark) return false;
  painted.set(place, mark);
  return true;
}
