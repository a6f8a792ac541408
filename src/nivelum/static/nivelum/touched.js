// A place touched on the plan goes into every field that asks for one.
"use strict";

{
  const FOOT = 0.3048;

  document.addEventListener("click", (event) => {
    const plan = event.target.closest("[data-touched]");
    const svg = plan?.querySelector("svg");
    if (!svg || event.target.closest("a")) return;
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    const { west, north, perMetre } = svg.dataset;
    const each = plan.dataset.feet ? FOOT : 1;
    const place = [Number(west) + at.x / perMetre, north - at.y / perMetre].map((metres) => (metres / each).toFixed(2)).join(" ");
    const fields = [...document.querySelectorAll("form [name=at], form [name=place]")];
    for (const field of fields) field.value = place;
    svg.querySelector(".touched")?.remove();
    const mark = document.createElementNS("http://www.w3.org/2000/svg", "path");
    mark.setAttribute("class", "touched");
    mark.setAttribute("d", `M${at.x - 12} ${at.y}h24M${at.x} ${at.y - 12}v24`);
    svg.append(mark);
  });
}
