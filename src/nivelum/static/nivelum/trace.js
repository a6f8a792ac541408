// A photo of a sketch or a plan, traced over: two places whose distance is known give its scale, then each touch is a
// corner. The picture stays on the device; what comes of it is typed into the sheet as corners.
"use strict";

{
const trace = document.querySelector("[data-trace]");
const area = document.getElementById("id_area");
const [canvas, over] = [trace.querySelector("canvas"), trace.querySelector("svg")];
const apart = trace.querySelector("[data-trace-apart]");
const says = trace.querySelector("[data-trace-says]");
const digits = document.body.dataset.unit?.startsWith("ft") ? 2 : 3;
let known = []; // two places, in the picture's own dots
let corners = [];

const distance = () => Number(apart.value.replace(",", "."));
const isScaled = () => known.length === 2 && distance() > 0;

function show() {
  const dots = [...known.map((at) => [at, "known"]), ...corners.map((at) => [at, "corner-dot"])];
  const size = canvas.width / 90;
  over.replaceChildren(
    ...[known.length === 2 ? line(known, "known") : null, corners.length > 1 ? line([...corners, corners[0]], "traced") : null].filter(Boolean),
    ...dots.map(([[x, y], css]) => shape("circle", { class: css, cx: x, cy: y, r: size })),
  );
  says.textContent = known.length < 2 ? says.dataset.two : isScaled() ? says.dataset.corners : says.dataset.apart;
}

function shape(name, attributes) {
  const made = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  return made;
}

const line = (places, css) => shape("polyline", { class: css, points: places.map((at) => at.join(",")).join(" ") });

// East and north of the first corner, in what the crew types on a plan.
function write() {
  const [[x0, y0]] = corners;
  const [[ax, ay], [bx, by]] = known;
  const scale = distance() / Math.hypot(bx - ax, by - ay);
  area.value = corners.map(([x, y]) => `${((x - x0) * scale).toFixed(digits)} ${((y0 - y) * scale).toFixed(digits)}`).join("\n");
  document.querySelector("[name=area_as][value=corners]").checked = true;
  if (corners.length > 2) htmx.trigger(area, "dragged");
}

trace.querySelector("input[type=file]").addEventListener("change", async (event) => {
  const [file] = event.target.files;
  if (!file) return;
  let picture;
  try {
    picture = await createImageBitmap(file);
  } catch {
    says.textContent = says.dataset.none;
    return;
  }
  const shrink = Math.min(1, 1600 / Math.max(picture.width, picture.height));
  [canvas.width, canvas.height] = [Math.round(picture.width * shrink), Math.round(picture.height * shrink)];
  canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
  over.setAttribute("viewBox", `0 0 ${canvas.width} ${canvas.height}`);
  [known, corners] = [[], []];
  trace.querySelector("[data-trace-picture]").hidden = false;
  show();
});

over.addEventListener("click", (event) => {
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(over.getScreenCTM().inverse());
  const place = [Math.round(at.x * 10) / 10, Math.round(at.y * 10) / 10];
  if (known.length < 2) {
    known.push(place);
    if (known.length === 2) apart.focus();
  } else if (isScaled()) {
    corners.push(place);
    write();
  } else apart.focus();
  show();
});

apart.addEventListener("input", () => {
  if (isScaled() && corners.length) write();
  show();
});

trace.querySelector("[data-trace-back]").addEventListener("click", () => {
  if (corners.length) corners.pop();
  else known.pop();
  if (corners.length) write();
  show();
});
}
