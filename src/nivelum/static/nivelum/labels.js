// Labels of drawings are as large as one can read out of doors, and keep clear of each other, of marks and of the edge:
// where one stands in another's place it moves around what it names, with a line to it where it comes away from it.
// What finds no room and is said elsewhere rests.
"use strict";

{
const DRAWINGS = "main svg:not(.mark, .thumbnail, .swatch)";
const MARKS = "use, .sight, .mark-point > path, .instrument > path, .peg, circle.drag, .drain-bed, .pool-number > circle, .cut-line circle, .cut circle, .work path";
const STAYS = ".cut-line text, .cut text, .pool-number text:not(.pool-depth), .end, .axis-tick, .count, .lift-name, .layer text";
const FIRST = ".amount, .pool-depth, .length-of, .move-by, .spot-value, .figure, .level, .soil";
const LAST = ".station.quiet .name, .spot-name, .contour-value, .patch-name, .fall-arrow text, .side";
const LEAST = 11; // px, what the letters of a label are high
const GAP = 1.5; // px between two boxes
const AWAY = 15; // px from what it names to a label that wants a line
const RINGS = [9, 15, 24, 36, 52, 74, 100]; // px around what is named
const CELL = 48; // px, of the grid that finds what is near

const shown = (each) => each.checkVisibility({ visibilityProperty: true, opacityProperty: true });
const trimmed = ({ left, top, right, bottom }) => ({ left, right, top: top + (bottom - top) * 0.16, bottom: bottom - (bottom - top) * 0.18 });
const moved = (box, x, y) => ({ left: box.left + x, right: box.right + x, top: box.top + y, bottom: box.bottom + y });
const overlap = (a, b) => Math.max(0, Math.min(a.right, b.right) - Math.max(a.left, b.left) + GAP) * Math.max(0, Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) + GAP);

class Taken {
  cells = new Map();
  *of(box) {
    for (let x = Math.floor(box.left / CELL); x <= Math.floor(box.right / CELL); x += 1)
      for (let y = Math.floor(box.top / CELL); y <= Math.floor(box.bottom / CELL); y += 1) yield x * 65536 + y;
  }
  add(box) {
    for (const cell of this.of(box)) (this.cells.get(cell) ?? this.cells.set(cell, []).get(cell)).push(box);
  }
  covered(box) {
    const near = new Set();
    for (const cell of this.of(box)) for (const each of this.cells.get(cell) ?? []) near.add(each);
    let sum = 0;
    for (const each of near) sum += overlap(box, each);
    return sum;
  }
}

// Where a label may stand instead, px from where it was drawn: around what it names, or up, down and aside.
function* places(box, point) {
  yield [0, 0];
  const [wide, high] = [box.right - box.left, box.bottom - box.top];
  if (!point) {
    for (const n of [1, 1.6, 2.3]) for (const [x, y] of [[0, -1], [0, 1], [-0.6, 0], [0.6, 0], [-0.6, -1], [0.6, -1], [-0.6, 1], [0.6, 1]]) yield [x * wide * n, y * (high + 3) * n];
    return;
  }
  for (const ring of RINGS) {
    const [left, right, up, down] = [point.x - ring - box.right, point.x + ring - box.left, point.y - ring - box.bottom, point.y + ring - box.top];
    const [middle, level] = [point.x - (box.left + box.right) / 2, point.y - (box.top + box.bottom) / 2];
    const near = ring * 0.6;
    yield* [[right, up + near], [left, up + near], [right, down - near], [left, down - near], [middle, up], [middle, down], [right, level], [left, level]];
  }
}

// What a label names: the place its group is drawn around.
function named(text) {
  const group = text.parentNode;
  if (group.tagName !== "g" && group.tagName !== "a" || !group.hasAttribute("transform")) return null;
  const at = group.getScreenCTM();
  return { x: at.e, y: at.f };
}

function reset(svg) {
  for (const text of svg.querySelectorAll("text[data-moved]")) {
    text.style.removeProperty("transform");
    delete text.dataset.moved;
  }
  for (const text of svg.querySelectorAll("text[data-enlarged]")) {
    text.style.removeProperty("font-size");
    delete text.dataset.enlarged;
  }
  for (const text of svg.querySelectorAll("text.crowded")) text.classList.remove("crowded");
  svg.querySelector(":scope > .leaders")?.remove();
}

function enlarge(texts) {
  const small = texts.map((text) => {
    const { a, b } = text.getScreenCTM();
    return { text, scale: Math.hypot(a, b), drawn: parseFloat(getComputedStyle(text).fontSize) };
  });
  for (const { text, scale, drawn } of small) {
    if (drawn * scale > LEAST - 0.05 || !scale) continue;
    text.dataset.enlarged = "";
    text.style.fontSize = `${(LEAST / scale).toFixed(3)}px`;
  }
}

function move(text, x, y) {
  const at = text.parentNode.getScreenCTM().inverse();
  const drawn = getComputedStyle(text).transform; // by an attribute, or by the style of a small screen
  text.dataset.moved = "";
  text.style.transform = `translate(${(at.a * x + at.c * y).toFixed(2)}px, ${(at.b * x + at.d * y).toFixed(2)}px) ${drawn === "none" ? "" : drawn}`;
}

function arrange(svg) {
  reset(svg);
  const frame = svg.getBoundingClientRect();
  if (frame.width < 60 || !shown(svg)) return;
  const texts = [...svg.querySelectorAll("text")].filter((text) => text.textContent.trim() && shown(text));
  enlarge(texts);
  const taken = new Taken();
  for (const mark of svg.querySelectorAll(MARKS)) {
    const box = mark.getBoundingClientRect();
    if (box.width < 60 && box.height < 60 && shown(mark)) taken.add(box);
  }
  const bounds = svg.classList.contains("moves") ? null : frame;
  const outside = (box) => bounds ? Math.max(0, bounds.left - box.left) + Math.max(0, box.right - bounds.right) + Math.max(0, bounds.top - box.top) + Math.max(0, box.bottom - bounds.bottom) : 0;
  const labels = texts.map((text, number) => {
    const stays = text.matches(STAYS);
    const rank = stays ? 0 : text.matches(".chosen *") ? 1 : text.matches(FIRST) ? 2 : text.matches(LAST) ? 4 : 3;
    return { text, box: trimmed(text.getBoundingClientRect()), point: named(text), stays, rank, number };
  });
  labels.sort((one, other) => one.rank - other.rank || one.number - other.number);
  const settled = [];
  for (const label of labels) {
    if (label.stays) {
      taken.add(label.box);
      continue;
    }
    let best = { cost: Infinity, x: 0, y: 0, box: label.box };
    for (const [x, y] of places(label.box, label.point)) {
      const box = moved(label.box, x, y);
      const cost = taken.covered(box) + 40 * outside(box);
      if (cost < best.cost) best = { cost, x, y, box };
      if (!cost) break;
    }
    const rests = best.cost > 2 && label.rank > 1;
    if (!rests) taken.add(best.box);
    if (rests || best.x || best.y) settled.push({ ...label, ...best, rests });
  }
  // All is measured before anything is moved.
  const leaders = [];
  const inward = svg.getScreenCTM().inverse();
  const inside = (x, y) => `${(inward.a * x + inward.e).toFixed(1)} ${(inward.d * y + inward.f).toFixed(1)}`;
  for (const { text, x, y, box, point, rests } of settled) {
    if (rests) {
      text.classList.add("crowded");
      continue;
    }
    const from = point ?? { x: (box.left + box.right) / 2 - x, y: (box.top + box.bottom) / 2 - y };
    const to = { x: Math.min(Math.max(from.x, box.left), box.right), y: Math.min(Math.max(from.y, box.top), box.bottom) };
    if (Math.hypot(to.x - from.x, to.y - from.y) > AWAY) leaders.push(`M${inside(from.x, from.y)}L${inside(to.x, to.y)}`);
    move(text, x, y);
  }
  if (!leaders.length) return;
  const lines = document.createElementNS("http://www.w3.org/2000/svg", "path");
  lines.setAttribute("class", "leaders");
  lines.setAttribute("d", leaders.join(""));
  svg.prepend(lines);
}

const scales = new WeakMap(); // what a drawing was last arranged for: its scale, and the screen its letters go by
function arrangeAll() {
  for (const svg of document.querySelectorAll(DRAWINGS)) {
    const at = svg.getScreenCTM();
    const scale = `${at?.a.toFixed(3)} ${innerWidth} ${innerHeight > 500}`;
    if (!at || scales.get(svg) === scale) continue;
    scales.set(svg, scale);
    arrange(svg);
    sizes.observe(svg);
    views.observe(svg, { attributes: true, attributeFilter: ["viewBox"] });
  }
}
let coming = 0;
const soon = () => (coming ||= requestAnimationFrame(() => ((coming = 0), arrangeAll())));
const sizes = new ResizeObserver(soon);
const views = new MutationObserver(soon);
document.addEventListener("DOMContentLoaded", arrangeAll);
document.addEventListener("htmx:load", soon);
document.addEventListener("shown", soon);
document.addEventListener("toggle", soon, true);
addEventListener("resize", soon);
document.fonts.ready.then(() => {
  for (const svg of document.querySelectorAll(DRAWINGS)) scales.delete(svg);
  soon();
});
}
