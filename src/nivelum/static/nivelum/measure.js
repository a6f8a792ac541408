// An area measured in by thumb: each way of measuring has a few fields, and what they say is written as a line under
// what is there already. A pattern’s `[…]` is left out where a field in it is empty, but for `{one?}`.
"use strict";

{
const pad = document.querySelector("[data-measures]");
const area = document.getElementById("id_area");
const BASE = /^a\s*[-–]?\s*b\s/im;
const CURVE = /\s+(rise|radius|through|smooth)\b.*$/i;
const NO_SIDE = /^(x\s*\d|a\s*[-–]?\s*b\s)/i;

function write(text) {
  document.querySelector("[name=area_as][value=measured]").checked = true;
  area.value = text;
  area.dispatchEvent(new Event("input", { bubbles: true }));
  area.scrollTop = area.scrollHeight;
}

const lines = () => area.value.split("\n").filter((line) => line.trim());

function said(panel) {
  const values = Object.fromEntries([...panel.querySelectorAll("[data-part]")].map((field) => [field.dataset.part, field.type === "checkbox" ? (field.checked ? field.value : "") : field.closest("[hidden]") ? "" : field.value.trim()]));
  const filled = (text) => text.replace(/\{(\w+)\??\}/g, (_all, name) => values[name]);
  return filled(panel.dataset.writes.replace("\\n", "\n").replace(/\[([^\]]*)\]/g, (_all, part) => ([...part.matchAll(/\{(\w+)\}/g)].every(([, name]) => values[name]) ? part : "")));
}

// A curve stands behind the newest side or corner, instead of the one that stood there.
function behind(curve) {
  const all = lines();
  const last = all.findLastIndex((line) => !NO_SIDE.test(line));
  if (last < 0) return;
  all[last] = `${all[last].replace(CURVE, "")} ${curve}`;
  write(all.join("\n"));
}

const wanted = (panel) => [...panel.querySelectorAll("input:not([type=checkbox])")].filter((field) => !field.closest("[hidden]"));

function add(panel) {
  const empty = wanted(panel).find((field) => !field.value.trim());
  if (empty) {
    empty.focus();
    return;
  }
  if (panel.hasAttribute("data-behind")) behind(said(panel));
  else write([...lines(), said(panel)].join("\n"));
  for (const field of panel.querySelectorAll("input")) [field.value, field.checked] = [field.type === "checkbox" ? field.value : "", false];
  show(panel);
}

function show(panel) {
  for (const each of pad.querySelectorAll("[data-panel]")) each.hidden = each !== panel;
  for (const each of pad.querySelectorAll("[data-opens]")) each.setAttribute("aria-expanded", String(each.dataset.opens === panel?.dataset.panel));
  for (const once of pad.querySelectorAll("[data-once]")) once.hidden = BASE.test(area.value);
  if (panel) wanted(panel)[0]?.focus();
}

if (pad && area && !area.matches(":disabled")) {
  pad.hidden = false;
  pad.addEventListener("click", (event) => {
    const { arrow, opens } = event.target.closest("button")?.dataset ?? {};
    const panel = event.target.closest("[data-panel]");
    if (opens) {
      const open = pad.querySelector(`[data-panel=${opens}]`);
      show(open.hidden ? open : null);
    } else if (arrow) {
      show(null);
      write([...lines(), `${arrow} `].join("\n"));
      area.inputMode = ["m", "mm"].includes(document.body.dataset.unit) ? "decimal" : "text";
      area.focus();
      area.setSelectionRange(area.value.length, area.value.length);
    } else if (event.target.closest("[data-add]")) add(panel);
  });
  document.addEventListener("signal", () => area.value.trim() && htmx.trigger(area, "dragged")); // what was typed without one is drawn
  pad.addEventListener("keydown", (event) => {
    const panel = event.target.closest("[data-panel]");
    if (event.key !== "Enter" || !panel || event.target.matches("button")) return;
    event.preventDefault();
    add(panel);
  });
  pad.addEventListener("change", (event) => {
    const kind = event.target.closest("[data-part=kind]");
    if (kind) kind.closest("[data-panel]").querySelector("[data-amount]").hidden = kind.value === "smooth";
  });
}
}
