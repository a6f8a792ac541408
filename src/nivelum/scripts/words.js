// Phrases come from the page in the reader's language; the script puts numbers, names and times into them.
export const phrase = (place, name, values = {}) =>
  (place?.dataset[name] ?? "").replace(/\{(\w+)\}/g, (whole, key) => values[key] ?? whole);

export const counted = (place, name, n, values = {}) => phrase(place, n === 1 ? `${name}One` : `${name}Many`, { n, ...values });

const language = () => document.documentElement.lang || "en";

// A time of today by its hour, another by its day too.
export function clock(iso) {
  const at = new Date(iso);
  const hour = at.toLocaleTimeString(language(), { hour: "2-digit", minute: "2-digit", hour12: false });
  if (at.toDateString() === new Date().toDateString()) return hour;
  return `${at.toLocaleDateString(language(), { weekday: "short", day: "numeric", month: "short" })}, ${hour}`;
}

// How long something lasted, in the largest unit that says enough.
export function span(milliseconds, unit = language()) {
  const minutes = Math.max(1, Math.round(Math.abs(milliseconds) / 60_000));
  const [number, name] = minutes < 90 ? [minutes, "minute"] : minutes < 48 * 60 ? [Math.round(minutes / 60), "hour"] : [Math.round(minutes / 1440), "day"];
  return new Intl.NumberFormat(unit, { style: "unit", unit: name, unitDisplay: "long" }).format(number);
}

export function element(name, attributes = {}, ...children) {
  const made = document.createElement(name);
  for (const [key, value] of Object.entries(attributes)) if (value !== undefined && value !== false) made.setAttribute(key, value);
  made.append(...children.filter((child) => child !== undefined && child !== null));
  return made;
}
