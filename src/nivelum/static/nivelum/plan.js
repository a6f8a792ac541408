// The plan as large as eyes and fingers need it: where its pane is small, what is around the station in hand, to be
// moved and drawn apart by fingers. Where everything on it is large enough, it shows the whole.
"use strict";

const SMALLEST = 13; // units of the sheet: its smallest letters
const LEGIBLE = 11; // px
const APART = 24; // px between two stations under a finger
const STILL = 8; // px a finger may move and still touch

let view = null; // how close, px a unit, where somebody chose it; and where one looks, units
let closeness = null;

const planHere = () => document.querySelector("#plan svg.plan");
const numbers = (text) => text.split(" ").map(Number);

function measured(svg) {
  svg.dataset.whole ??= svg.getAttribute("viewBox");
  const [, , wide, high] = numbers(svg.dataset.whole);
  const pane = svg.getBoundingClientRect();
  const whole = Math.min(pane.width / wide, pane.height / high);
  const fingers = matchMedia("(pointer: coarse)").matches ? APART / Number(svg.dataset.apart || APART) : 0;
  return { wide, high, pane, whole, needed: Math.max(whole, LEGIBLE / SMALLEST, fingers) };
}

function inHand(svg) {
  const at = svg.querySelector(".station.chosen")?.getAttribute("transform");
  return at ? numbers(at.replace(/^translate\(|\)$/g, "")) : null;
}

// Shows the plan; `follows` where the station in hand is to be seen, unless it is well in sight already.
function show(svg, follows) {
  const { wide, high, pane, whole, needed } = measured(svg);
  if (!pane.width || !pane.height) return;
  const scale = Math.min(Math.max(closeness ?? needed, whole), 4);
  const [across, down] = [pane.width / scale, pane.height / scale];
  const station = inHand(svg);
  const isSeen = view && station && Math.abs(station[0] - view[0]) < across * 0.35 && Math.abs(station[1] - view[1]) < down * 0.35;
  if (!view || (follows && station && !isSeen)) view = station ?? [wide / 2, high / 2];
  view = [kept(view[0], across, wide), kept(view[1], down, high)];
  svg.setAttribute("viewBox", `${view[0] - across / 2} ${view[1] - down / 2} ${across} ${down}`);
  svg.classList.toggle("moves", scale > whole * 1.01);
  const tools = document.querySelector("#plan .closer");
  if (tools) tools.hidden = needed <= whole * 1.01 && closeness === null;
}

const kept = (middle, seen, all) => (seen >= all ? all / 2 : Math.min(Math.max(middle, seen / 2), all - seen / 2));

function closer(svg, times, at) {
  const { pane, whole, needed } = measured(svg);
  const [left, top, across, down] = numbers(svg.getAttribute("viewBox"));
  const was = pane.width / across;
  closeness = Math.min(Math.max((closeness ?? needed) * times, whole), 4);
  const [x, y] = at ? [(at[0] - pane.left) / pane.width, (at[1] - pane.top) / pane.height] : [0.5, 0.5];
  const under = [left + x * across, top + y * down];
  const now = [(across * was) / closeness, (down * was) / closeness];
  view = [under[0] + (0.5 - x) * now[0], under[1] + (0.5 - y) * now[1]];
  show(svg, false);
}

const fingers = new Map();
let moved = false;
document.addEventListener("pointerdown", (event) => {
  const svg = event.target.closest?.("#plan svg.plan.moves");
  if (!svg || event.pointerType === "mouse" && event.button) return;
  if (!fingers.size) moved = false;
  fingers.set(event.pointerId, { at: [event.clientX, event.clientY], from: [event.clientX, event.clientY] });
});
document.addEventListener("pointermove", (event) => {
  const finger = fingers.get(event.pointerId);
  const svg = planHere();
  if (!finger || !svg) return;
  const [before, now] = [finger.at, [event.clientX, event.clientY]];
  moved ||= Math.hypot(now[0] - finger.from[0], now[1] - finger.from[1]) > STILL;
  if (!moved) return;
  const others = [...fingers].filter(([id]) => id !== event.pointerId).map(([, other]) => other.at);
  finger.at = now;
  if (others.length) {
    const [other] = others;
    const apart = (point) => Math.hypot(point[0] - other[0], point[1] - other[1]);
    closer(svg, apart(now) / Math.max(apart(before), 1), [(now[0] + other[0]) / 2, (now[1] + other[1]) / 2]);
    return;
  }
  const scale = svg.getBoundingClientRect().width / numbers(svg.getAttribute("viewBox"))[2];
  view = [view[0] - (now[0] - before[0]) / scale, view[1] - (now[1] - before[1]) / scale];
  show(svg, false);
});
for (const ends of ["pointerup", "pointercancel"]) document.addEventListener(ends, (event) => fingers.delete(event.pointerId));
// What was moved is not touched.
document.addEventListener("click", (event) => {
  if (!moved || !event.target.closest?.("#plan svg")) return;
  moved = false;
  event.preventDefault();
  event.stopImmediatePropagation();
}, true);
document.addEventListener("dragstart", (event) => event.target.closest?.("#plan svg") && event.preventDefault());

document.addEventListener("click", (event) => {
  const press = event.target.closest?.("#plan .closer button");
  const svg = planHere();
  if (!press || !svg) return;
  if (press.value) closer(svg, Number(press.value));
  else {
    closeness = measured(svg).whole;
    show(svg, false);
  }
});

const sizes = new ResizeObserver(() => planHere() && show(planHere(), false));
let followed = "";
// The next station is followed; where somebody looks elsewhere meanwhile, others' news leave it at that.
function follow() {
  const svg = planHere();
  if (!svg) return;
  const station = svg.querySelector(".station.chosen")?.dataset.station ?? "";
  sizes.disconnect();
  sizes.observe(svg.parentElement);
  show(svg, station !== followed);
  followed = station;
}
document.addEventListener("htmx:load", follow);
document.addEventListener("shown", follow);
