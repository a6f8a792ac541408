// The layout dragged over the plan, pieces and rows touched on it.
"use strict";

{
  const FOOT = 0.3048;
  const NEAR = 5; // px: less is a touch, not a drag
  let drag = null;

  const ground = (svg, event) => {
    const box = svg.getScreenCTM().inverse();
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(box);
    const { west, north, perMetre } = svg.dataset;
    return { sheet: at, x: Number(west) + at.x / perMetre, y: north - at.y / perMetre };
  };
  // A move on the ground as one sees it from the string's side.
  const seen = (svg, x, y) => {
    const along = Number(svg.dataset.along);
    return [Math.cos(along) * x + Math.sin(along) * y, Math.cos(along) * y - Math.sin(along) * x];
  };

  document.addEventListener("pointerdown", (event) => {
    const svg = event.target.closest("[data-layout] svg");
    if (!svg || event.button !== 0) return;
    const fill = svg.querySelector("#laid");
    const form = document.getElementById("design");
    if (!fill || !form) return;
    drag = { svg, fill, form, from: ground(svg, event), at: fill.getAttribute("patternTransform"), x: event.clientX, y: event.clientY,
      over: Number(svg.dataset.over), ahead: Number(svg.dataset.ahead), moved: false, piece: event.target.dataset.piece };
    svg.setPointerCapture(event.pointerId);
  });

  const into = (field, metres) => {
    const { feet } = field.form.dataset;
    field.value = (feet ? metres / FOOT : metres).toFixed(4);
  };

  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (!drag.moved && Math.hypot(event.clientX - drag.x, event.clientY - drag.y) < NEAR) return;
    drag.moved = true;
    const now = ground(drag.svg, event);
    const [dx, dy] = [now.sheet.x - drag.from.sheet.x, now.sheet.y - drag.from.sheet.y];
    drag.fill.setAttribute("patternTransform", `translate(${dx} ${dy}) ${drag.at}`);
    drag.svg.querySelector(".cut-units")?.setAttribute("opacity", "0.25");
    const [over, ahead] = seen(drag.svg, now.x - drag.from.x, now.y - drag.from.y);
    into(drag.form.elements.over, drag.over + over);
    into(drag.form.elements.ahead, drag.ahead + ahead);
  });

  document.addEventListener("pointerup", () => {
    if (!drag) return;
    const { form, moved, piece } = drag;
    drag = null;
    if (moved) {
      form.dispatchEvent(new Event("moved"));
    } else if (piece) {
      const query = new URLSearchParams(new FormData(form));
      query.set("piece", piece);
      window.location.search = form.dataset.kept ? `piece=${encodeURIComponent(piece)}` : query.toString();
    }
  });
  document.addEventListener("pointercancel", () => { drag = null; });

  // Touching the plan of rows says how far they are laid.
  document.addEventListener("click", (event) => {
    const svg = event.target.closest("[data-rows] svg");
    const field = document.querySelector("form[data-kind=rows_laid] [name=row]");
    if (!svg || !field) return;
    const spot = ground(svg, event);
    const { x, y, string, pitch, first, last } = svg.dataset;
    const ahead = seen(svg, spot.x - x, spot.y - y)[1];
    const row = Math.floor((ahead - string) / pitch) + Number(first);
    field.value = Math.min(Math.max(row, 0), Number(last));
    field.dispatchEvent(new Event("input", { bubbles: true }));
    field.focus();
  });
}
