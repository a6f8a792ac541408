// Hands on the drawings of the Base room: what is dragged is written into the fields beside it, in the unit they are
// typed in, and the server works out the rest.
"use strict";

const METRE = { m: 1, mm: 1, ft: 1 / 0.3048, "ft-in": 1 / 0.3048 };
const LAYER = { m: 1000, mm: 1000, ft: 1 / 0.3048, "ft-in": 1 / 0.0254 };
const SNAP = { m: 5, mm: 5, ft: 0.02, "ft-in": 0.25 };
const unit = () => document.body.dataset.unit || "mm";

function onSheet(drawing, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());
}

function onGround(drawing, event) {
  const at = onSheet(drawing, event);
  const { west, north, perMetre } = drawing.dataset;
  return [Number(west) + at.x / perMetre, Number(north) - at.y / perMetre];
}

const typedPlace = (place, digits = 2) =>
  place.map((metres) => (Math.round(metres * METRE[unit()] * 10 ** digits) / 10 ** digits + 0).toFixed(digits)).join(" ");

function put(field, value) {
  field.value = value;
  htmx.trigger(field.closest("form") || field.form || field, "dragged");
}

// Number of a thickness field: a bare number, as it is shown.
function number(field) {
  const [whole, top, bottom] = (field.value.match(/[\d.]+/g) || ["0"]).map(Number);
  return bottom ? whole + top / bottom : top && field.value.includes("/") ? whole / top : whole;
}

function shown(value) {
  return String(Math.max(0, Math.round(value * 100) / 100));
}

// A job that was begun on this device has been started.
const draft = `start a job: ${document.body.dataset.person}`;
if (document.body.dataset.job && sessionStorage.getItem(draft)) {
  sessionStorage.removeItem(draft);
  localStorage.removeItem(draft);
}

document.addEventListener("pointerdown", (event) => {
  const handle = event.target.closest(".handle");
  const corner = event.target.closest("circle.drag");
  const marked = event.target.closest("[data-marking] svg");
  const plan = event.target.closest("[data-cutting] svg");
  const laid = event.target.closest("[data-laying] svg");
  if (handle) dragLayer(event, nearest(event, handle));
  else if (corner) dragCorner(event, corner);
  else if (marked) dragMark(event, marked);
  else if (plan) dragCut(event, plan);
  else if (laid && way() in LAID) dragLine(event, laid);
});

// How the falls are to be laid out, and how many places on the plan that takes.
const LAID = { valley: 2, ridge: 2, gully: 1 };
const way = () => document.querySelector("[name=layout]:checked")?.value;
const NEAR = 22; // px to a corner, a drain or the edge that a line is drawn to

// What a place on the sheet is meant to be: a corner by its name, a drain, a place on the area's edge, or just there.
function meant(drawing, at) {
  const scale = drawing.getScreenCTM().a;
  const far = (x, y) => Math.hypot(x - at.x, y - at.y) * scale;
  const there = (x, y) => typedPlace([Number(drawing.dataset.west) + x / drawing.dataset.perMetre, Number(drawing.dataset.north) - y / drawing.dataset.perMetre]);
  const [best] = JSON.parse(drawing.dataset.snaps ?? "[]").sort((a, b) => far(a[1], a[2]) - far(b[1], b[2]));
  if (best && far(best[1], best[2]) < NEAR) return { x: best[1], y: best[2], said: best[0] || there(best[1], best[2]) };
  const edge = drawing.querySelector("path.area");
  const whole = edge.getTotalLength();
  let closest = at;
  for (let n = 0; n < 600; n += 1) {
    const on = edge.getPointAtLength((whole * n) / 600);
    if (far(on.x, on.y) < Math.min(NEAR, closest === at ? Infinity : far(closest.x, closest.y))) closest = on;
  }
  return { x: closest.x, y: closest.y, said: there(closest.x, closest.y) };
}

// A ridge or a valley drawn over the plan, or a gully put on it: the falls are planned again at once.
function dragLine(event, drawing) {
  const field = document.getElementById("id_where");
  const one = LAID[way()] === 1;
  const from = meant(drawing, onSheet(drawing, event));
  const line = drawing.appendChild(document.createElementNS("http://www.w3.org/2000/svg", "path"));
  line.setAttribute("class", "drawn-line");
  follow(
    event,
    (now) => {
      const to = meant(drawing, onSheet(drawing, now));
      line.setAttribute("d", `M${from.x} ${from.y}L${to.x} ${to.y}`);
    },
    (last) => {
      const to = meant(drawing, onSheet(drawing, last));
      if (!one && to.said === from.said) return line.remove();
      field.value = one ? to.said : `${from.said}; ${to.said}`;
      document.getElementById("plan-falls").click();
    },
  );
}

function follow(event, move, done) {
  event.preventDefault();
  const stop = (last) => {
    removeEventListener("pointermove", move);
    removeEventListener("pointerup", stop);
    removeEventListener("pointercancel", stop);
    done(last);
  };
  addEventListener("pointermove", move);
  addEventListener("pointerup", stop);
  addEventListener("pointercancel", stop);
}

// Where a thumb covers the handles of two layers, the one whose edge it is nearest to.
function nearest(event, touched) {
  const away = (handle) => {
    const box = handle.querySelector("path").getBoundingClientRect();
    return Math.abs((box.top + box.bottom) / 2 - event.clientY);
  };
  return [...touched.ownerSVGElement.querySelectorAll(".handle")].reduce((best, each) => (away(each) < away(best) ? each : best), touched);
}

function dragLayer(event, handle) {
  const drawing = handle.ownerSVGElement;
  const field = document.getElementById(handle.dataset.field);
  if (!field || field.matches(":disabled")) return;
  const [from, was, perMetre] = [onSheet(drawing, event).y, number(field), Number(drawing.dataset.perMetre)];
  const step = SNAP[unit()];
  const base = handle.getAttribute("transform");
  handle.classList.add("held");
  follow(
    event,
    (now) => {
      const by = ((onSheet(drawing, now).y - from) / perMetre) * LAYER[unit()];
      field.value = shown(Math.round((was + by) / step) * step);
      handle.setAttribute("transform", `${base} translate(0 ${onSheet(drawing, now).y - from})`);
    },
    () => put(field, field.value),
  );
}

function dragCorner(event, corner) {
  const drawing = corner.ownerSVGElement;
  const area = document.getElementById("id_area");
  const outline = drawing.querySelector("path.area");
  if (!area || area.matches(":disabled")) return;
  const corners = [...drawing.querySelectorAll("circle.drag")];
  const place = (circle) => [Number(circle.getAttribute("cx")), Number(circle.getAttribute("cy"))];
  follow(
    event,
    (now) => {
      const at = onSheet(drawing, now);
      corner.setAttribute("cx", at.x);
      corner.setAttribute("cy", at.y);
      outline.setAttribute("d", `M${corners.map((one) => place(one).join(" ")).join("L")}Z`);
    },
    () => {
      // The corner that was dragged is written anew; the others stay as typed where they were typed as corners.
      const { west, north, perMetre } = drawing.dataset;
      const as = document.querySelector("[name=area_as][value=corners]");
      const lines = area.value.split("\n").filter((line) => line.trim());
      const typed = as.checked && lines.length === corners.length;
      area.value = corners
        .map((one, n) => {
          if (typed && one !== corner) return lines[n];
          const [x, y] = place(one);
          const at = typedPlace([Number(west) + x / perMetre, Number(north) - y / perMetre], one === corner ? 2 : 3);
          return one.dataset.curve ? `${at} ${one.dataset.curve}` : at;
        })
        .join("\n");
      as.checked = true;
      htmx.trigger(area, "dragged");
    },
  );
}

// A rectangle dragged over the plan: two opposite corners, a line each.
function dragMark(event, plan) {
  const field = document.getElementById(plan.parentElement.dataset.marking);
  const [from, begun] = [onSheet(plan, event), onGround(plan, event)];
  const shape = plan.appendChild(document.createElementNS("http://www.w3.org/2000/svg", "rect"));
  shape.setAttribute("class", "marking");
  const move = (now) => {
    const to = onSheet(plan, now);
    for (const [name, value] of [
      ["x", Math.min(from.x, to.x)],
      ["y", Math.min(from.y, to.y)],
      ["width", Math.abs(to.x - from.x)],
      ["height", Math.abs(to.y - from.y)],
    ])
      shape.setAttribute(name, value);
  };
  follow(event, move, (last) => {
    const far = Math.hypot(last.clientX - event.clientX, last.clientY - event.clientY) > 8;
    if (far) field.value = `${typedPlace(begun)}\n${typedPlace(onGround(plan, last))}`;
    if (!far) shape.remove();
    else for (const other of plan.querySelectorAll(".marking")) if (other !== shape) other.remove();
  });
}

function dragCut(event, drawing) {
  const [at, start, end] = ["id_at", "id_start", "id_end"].map((id) => document.getElementById(id));
  const from = onGround(drawing, event);
  follow(event, () => {}, (last) => {
    const to = onGround(drawing, last);
    if (Math.hypot(to[0] - from[0], to[1] - from[1]) * Number(drawing.dataset.perMetre) < 25) {
      start.value = end.value = "";
      put(at, typedPlace(from));
    } else {
      start.value = typedPlace(from);
      put(end, typedPlace(to));
    }
  });
}

document.addEventListener("click", (event) => {
  const step = event.target.closest("button[data-step]");
  if (!step) return;
  const field = document.getElementById(step.dataset.for);
  put(field, shown(number(field) + (Number(step.dataset.step) / 5) * SNAP[unit()]));
});
