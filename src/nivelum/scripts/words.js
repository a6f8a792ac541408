// Phrases come from the page in the reader's language; the script puts numbers, names and times into them.
export const phrase = (place, name, values = {}) =>
  (place?.dataset[name] ?? "").replace(/\{(\w+)\}/g, (whole, key) => values[key] ?? whole);

export const counted = (place, name, n, values = {}) => phrase(place, n === 1 ? `${name}One` : `${name}Many`, { n, ...values });

const language = () => document.documentElement.lang || "en";

// A time of today by its hour, another by its day too.
export function clock(iso) {
  const at = new Date(iso);
  const hour = at.toLocaleTimeString(language(), { hour: "numeric", minute: "2-digit" });
  if (at.toDateString() === new Date().toDateString()) return hour;
  return `${at.toLocaleDateString(language(), { weekday: "short", day: "numeric", month: "short" })}, ${hour}`;
}

// How long something lasted, in the largest unit that says enough.
export function span(milliseconds, unit = language()) {
  const minutes = Math.max(1, Math.round(Math.abs(milliseconds) / 60_000));
  const [number, name] = minutes < 90 ? [minutes, "minute"] : minutes < 48 * 60 ? [Math.round(minutes / 60), "hour"] : [Math.round(minutes / 1440), "day"];
  return new Intl.NumberFormat(unit, { style: "unit", unit: name, unitDisplay: "long" }).format(number);
}

// Puts `nodes` in place of what stands there; what is the same already stays, and with it the focus.
export function fill(place, nodes) {
  const there = [...place.childNodes];
  const next = nodes.map((node) => {
    const same = there.findIndex((each) => each.isEqualNode(node));
    return same < 0 ? node : there.splice(same, 1)[0];
  });
  there.forEach((each) => each.remove());
  next.forEach((node, n) => place.childNodes[n] !== node && place.insertBefore(node, place.childNodes[n] ?? null));
}

// What is drawn anew under a thumb that is just pressing it takes the press with it: one waits until it is lifted.
const LONGEST_PRESS = 1000;
let pressing = null;
let lift = (_ = undefined) => {};
globalThis.document?.addEventListener("pointerdown", () => {
  pressing = new Promise((done) => {
    lift = done;
    setTimeout(done, LONGEST_PRESS);
  });
}, true);
for (const end of ["pointerup", "pointercancel"]) globalThis.document?.addEventListener(end, () => setTimeout(lift), true);
export const lifted = () => pressing;

export function element(name, attributes = {}, ...children) {
  const made = document.createElement(name);
  for (const [key, value] of Object.entries(attributes)) if (value !== undefined && value !== false) made.setAttribute(key, value);
  made.append(...children.filter((child) => child !== undefined && child !== null));
  return made;
}
