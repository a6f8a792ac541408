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

// The sheet as the server draws it for what was typed, with as many rows as it had.
function carryOn(fields) {
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
form.addEventListener("input", () => localStorage.setItem(key, JSON.stringify(typed())));
form.addEventListener("dragged", () => localStorage.setItem(key, JSON.stringify(typed())));
form.addEventListener("submit", () => sessionStorage.setItem(key, "sent"));
}
