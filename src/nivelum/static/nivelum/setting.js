// What is set to a level without a signal, rails and edges: what is read is told from the table that came with the page,
// and the pad goes on to the next place.
/* global foretell */
"use strict";

document.addEventListener("kept", (event) => {
  const form = event.target;
  const data = document.getElementById("foretold-data");
  if (form.dataset.setting === undefined || !data) return;
  const all = JSON.parse(data.textContent);
  const sent = Object.fromEntries(event.detail.fields);
  const here = all.places.find(({ fields }) => Object.entries(fields).every(([name, value]) => sent[name] === value));
  const whole = (table) => table && { ...table, outcomes: all.rules[table.outcomes] };
  const found = here && foretell.verdict(whole(here.table), sent.reading, all.unit);
  const told = document.getElementById("setting-told");
  told.hidden = !here;
  told.className = `verdict v-${found?.css ?? "close"}`;
  told.firstElementChild.textContent = here ? `${here.called}: ${found?.says ?? sent.reading}` : "";
  if (here) here.done = true;
  const place = all.places.indexOf(here);
  const next = [...all.places.slice(place + 1), ...all.places.slice(0, place)].find((each) => !each.done);
  if (next) {
    for (const [name, value] of Object.entries(next.fields)) form.elements[name].value = value;
    document.getElementById("target").textContent = next.target;
    for (const [name, text] of [["called", next.called], ["name", next.name]]) form.querySelector(`[data-fill=${name}]`).textContent = text;
    all.tables = [whole(next.table), whole(next.table)];
  }
  data.textContent = JSON.stringify(all);
  document.getElementById("foretold").textContent = "";
  form.elements.reading.focus();
});

// The sizes of another kind of edge take the place of those nobody has touched.
document.addEventListener("change", ({ target }) => {
  const form = target.closest("form[data-edge-form]");
  if (!form || target.name !== "what") return;
  const was = [...form.elements.what].find((each) => each.hasAttribute("data-was")) ?? [...form.elements.what].find((each) => each.defaultChecked);
  for (const [name, typed] of Object.entries(target.dataset)) {
    const field = form.elements.namedItem(name);
    if (field && name !== "was" && (!was || field.value === was.dataset[name])) field.value = typed;
  }
  was?.removeAttribute("data-was");
  target.setAttribute("data-was", "");
});
