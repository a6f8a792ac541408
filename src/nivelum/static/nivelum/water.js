// Rain on the plan: draws what the server worked out, frame by frame, and straight on between frames. Nothing of the
// trade is reckoned in here: levels, times and amounts come with the page.
"use strict";

const SPAN = 12000; // milliseconds in which the whole rain is played
const STILL = 8; // pictures of it, where motion is to be little
const REDUCED = matchMedia("(prefers-reduced-motion: reduce)");

document.addEventListener("htmx:load", (event) => {
  for (const root of event.detail.elt.querySelectorAll("[data-rain]")) rain(root);
  if (event.detail.elt.matches?.("[data-rain]")) rain(event.detail.elt);
});

function rain(root) {
  const clock = root.querySelector("[data-clock]");
  const scenes = [...root.querySelectorAll("[data-scene]")].filter((one) => one.querySelector("canvas")).map(scene);
  if (!clock || !scenes.length || root.dataset.awake) return;
  root.dataset.awake = "yes";
  const [play, time] = [clock.querySelector("[data-play]"), clock.querySelector("[data-time]")];
  const last = scenes[0].frames.length - 1;
  play.hidden = time.hidden = false;
  let playing = null;
  const show = (at, drops) => {
    time.value = at;
    const frame = scenes[0].frames[Math.round(at)];
    clock.querySelector("[data-minutes]").textContent = frame.clock;
    clock.querySelector("[data-fallen]").textContent = frame.fallen;
    clock.querySelector("[data-standing]").textContent = frame.standing;
    clock.querySelector("[data-run-off]").textContent = frame.run_off;
    for (const one of scenes) draw(one, at, drops);
  };
  const stop = () => {
    cancelAnimationFrame(playing);
    playing = null;
    root.classList.remove("raining");
    play.textContent = play.dataset.go;
  };
  play.addEventListener("click", () => {
    if (playing) return stop();
    const from = Number(time.value) >= last ? 0 : Number(time.value);
    let begun = null;
    let still = -1;
    root.classList.add("raining");
    play.textContent = play.dataset.pause;
    const step = (now) => {
      if (!root.isConnected) return;
      begun ??= now;
      let at = from + ((now - begun) / SPAN) * last;
      // To whom motion does harm the rain is shown in a few pictures that stand still.
      if (REDUCED.matches) at = Math.floor((at / last) * STILL) * (last / STILL);
      if (!REDUCED.matches || at !== still) show(Math.min(at, last), REDUCED.matches ? null : now / 1000);
      still = at;
      if (at >= last) stop();
      else playing = requestAnimationFrame(step);
    };
    playing = requestAnimationFrame(step);
  });
  time.addEventListener("input", () => {
    stop();
    root.classList.add("raining");
    show(Number(time.value), null);
  });
  addEventListener("resize", () => root.isConnected && show(Number(time.value), null));
  show(last, null);
}

function scene(figure) {
  const data = JSON.parse(figure.querySelector("script").textContent);
  const lengths = data.ways.map((way) => {
    const found = [0];
    for (let n = 2; n < way.length; n += 2) found.push(found.at(-1) + Math.hypot(way[n] - way[n - 2], way[n + 1] - way[n - 1]));
    return found;
  });
  return { ...data, lengths, canvas: figure.querySelector("canvas"), standing: figure.querySelector("p [data-standing]") };
}

function draw(one, at, drops) {
  const { canvas } = one;
  const [box, dots] = [canvas.getBoundingClientRect(), devicePixelRatio || 1];
  canvas.width = Math.round(box.width * dots);
  canvas.height = Math.round(box.height * dots);
  const scale = Math.min(canvas.width / one.width, canvas.height / one.height);
  const pen = canvas.getContext("2d");
  pen.setTransform(scale, 0, 0, scale, (canvas.width - one.width * scale) / 2, (canvas.height - one.height * scale) / 2);
  const style = getComputedStyle(canvas);
  pen.fillStyle = style.getPropertyValue("--water");
  pen.globalAlpha = 0.75;
  pen.beginPath();
  for (const [hollow, level] of levels(one, at)) for (const place of one.hollows[hollow] ?? []) flood(pen, one.triangles[place], level);
  pen.fill();
  pen.globalAlpha = 1;
  pen.fillStyle = style.getPropertyValue("--chalk");
  if (drops !== null) one.ways.forEach((way, n) => drop(pen, way, one.lengths[n], (drops * 60 + n * 37) % (one.lengths[n].at(-1) + 40)));
  if (one.standing) one.standing.textContent = one.frames[Math.round(at)].standing;
}

// Each hollow's level between two frames; one that two others became is drawn from the frame it stands in.
function levels(one, at) {
  const [before, after] = [one.frames[Math.floor(at)].levels, one.frames[Math.ceil(at)].levels];
  const share = at - Math.floor(at);
  return Object.entries(before).map(([hollow, level]) => [hollow, level + share * ((after[hollow] ?? level) - level)]);
}

// The part of a triangle under a level.
function flood(pen, corners, level) {
  const ring = [];
  for (let n = 0; n < 9; n += 3) {
    const m = (n + 3) % 9;
    const [one, other] = [corners[n + 2] - level, corners[m + 2] - level];
    if (one < 0) ring.push([corners[n], corners[n + 1]]);
    if (one < 0 !== other < 0) {
      const share = one / (one - other);
      ring.push([corners[n] + share * (corners[m] - corners[n]), corners[n + 1] + share * (corners[m + 1] - corners[n + 1])]);
    }
  }
  ring.forEach(([x, y], n) => (n ? pen.lineTo(x, y) : pen.moveTo(x, y)));
  if (ring.length) pen.closePath();
}

function drop(pen, way, lengths, run) {
  const next = lengths.findIndex((length) => length >= run);
  if (next < 1) return;
  const share = (run - lengths[next - 1]) / (lengths[next] - lengths[next - 1] || 1);
  const [x1, y1, x2, y2] = way.slice(2 * next - 2, 2 * next + 2);
  pen.beginPath();
  pen.arc(x1 + share * (x2 - x1), y1 + share * (y2 - y1), 3.2, 0, 2 * Math.PI);
  pen.fill();
}
