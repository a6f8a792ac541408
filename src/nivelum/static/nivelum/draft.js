// A job that is being started stays on the device until it is started: what was typed is offered again after the page
// was left, reloaded or lost with the signal.
"use strict";

{
const form = document.getElementById("brief");
const key = `start a job: ${document.body.dataset.person}`;
const OWN = new Set(["csrfmiddlewaretoken", "entry_id", "version", "knows", "keep", "look", "add"]);
const typed = () => [...new FormData(form)].filter(([name, value]) => typeof value === "string" && !OWN.has(name));
const offer = document.querySelector("[data-draft]");

function kept() {
  try {
    return JSON.parse(localStorage.getItem(key)) ?? null;
  } catch {
    return null;
  }
}

// The sheet as the server draws it for what was typed, with as many rows as it had; without a signal what has its
// place on the sheet as it is, the rest goes along unseen.
function carryOn(fields) {
  const here = new Set([...form.elements].map((field) => field.name));
  if (document.body.dataset.kept !== undefined) {
    for (const [name, value] of fields) {
      if (here.has(name) || OWN.has(name)) continue;
      const unseen = Object.assign(document.createElement("input"), { type: "hidden", name, value });
      form.append(unseen);
    }
    for (const field of form.elements) {
      const own = fields.filter(([name]) => name === field.name && !OWN.has(name)).map(([, value]) => value);
      if (OWN.has(field.name) || field.type === "file" || !field.name || (field.type === "hidden" && !field.name.endsWith("-count"))) continue;
      if (["checkbox", "radio"].includes(field.type)) field.checked = own.includes(field.value);
      else if (own.length) field.value = own[0];
    }
    offer.hidden = true;
    keep();
    return;
  }
  const again = form.cloneNode(false);
  again.removeAttribute("id");
  const own = [["csrfmiddlewaretoken", form.elements.csrfmiddlewaretoken.value], ["look", "1"]];
  for (const [name, value] of [...own, ...fields]) {
    const field = document.createElement("textarea");
    field.name = name;
    field.value = value;
    again.append(field);
  }
  again.hidden = true;
  document.body.append(again);
  again.submit();
}

const before = kept();
if (offer && before) {
  offer.hidden = false;
  offer.querySelector("[data-draft-name]").textContent = before.find(([name]) => name === "name")?.[1] || "…";
  offer.querySelector("[data-draft-on]").addEventListener("click", () => carryOn(before));
  offer.querySelector("[data-draft-off]").addEventListener("click", () => {
    localStorage.removeItem(key);
    offer.hidden = true;
  });
}
const keep = () => localStorage.setItem(key, JSON.stringify(typed()));
form.addEventListener("input", keep);
form.addEventListener("dragged", keep);
// A page as last seen may have started a job already.
if (document.body.dataset.kept !== undefined) form.elements.entry_id.value = crypto.randomUUID();
form.addEventListener("submit", () => sessionStorage.setItem(key, "sent"));
}
