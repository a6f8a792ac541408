// Comforts on top of plain forms and htmx: the pad's own keys, arrow keys, touching the plan, live news.
// No arithmetic of the trade in here: levels and verdicts come from the server.
"use strict";

document.addEventListener("htmx:load", (event) => wake(event.detail.elt));

function wake(root) {
  for (const keys of root.querySelectorAll(".keys:not([data-awake])")) {
    keys.dataset.awake = "";
    const entry = keys.closest("form").querySelector("#entry");
    if (matchMedia("(pointer: coarse)").matches) entry.setAttribute("inputmode", "none");
    for (const key of keys.children) key.tabIndex = -1; // whoever comes by Tab has keys
    keys.addEventListener("click", (click) => press(entry, click.target.closest("button")?.dataset.key));
  }
  for (const device of root.querySelectorAll(".probe[hidden]")) {
    device.hidden = false;
    device.querySelector("button").addEventListener("click", () => askProbe(device));
  }
  for (const device of root.querySelectorAll(".device[hidden]")) {
    device.hidden = false;
    device.querySelector("button").addEventListener("click", () => askLevel(device));
  }
  // What overrules a doubt is an act of its own: not the same key or thumb again before anybody can have read it.
  for (const overrules of root.querySelectorAll("[data-deliberate]")) {
    overrules.disabled = true;
    setTimeout(() => (overrules.disabled = false), 1000);
    overrules.closest("form").querySelector("#entry")?.select();
  }
  const inHand = document.querySelector("#course .in-hand");
  if (inHand) inHand.parentElement.scrollLeft = inHand.offsetLeft - inHand.parentElement.offsetLeft;
  for (const line of document.querySelectorAll("[data-roves]")) rove(line);
}

function press(entry, key) {
  if (!key) return;
  const [from, to] = [entry.selectionStart, entry.selectionEnd];
  if (key === "back") entry.setRangeText("", from === to ? Math.max(0, from - 1) : from, to, "end");
  else entry.setRangeText(key, from, to, "end");
  entry.focus();
}

// The level in hand is asked beside the typing: whatever it does, what is typed stays.
async function askLevel(device) {
  const form = device.closest("form");
  const entry = form.querySelector("#entry");
  const says = device.querySelector("[role=status]");
  const was = entry.value;
  const asked = new URLSearchParams([...new FormData(form)].filter(([name]) => ["station", "surface", "mark", "point"].includes(name)));
  says.textContent = says.dataset.asking;
  entry.focus();
  try {
    const answer = await fetch(`${device.dataset.level}?${asked}`, { signal: AbortSignal.timeout(4000) });
    const { typed, trouble } = await answer.json();
    says.textContent = trouble ?? `${says.dataset.kept} ${typed}`;
    if (typed === undefined || !entry.isConnected || entry.value !== was) return;
    entry.value = typed;
    entry.select();
  } catch {
    says.textContent = says.dataset.silent;
  }
}

// A gauge or falling weight fills the fields it measures; what else is typed stays.
async function askProbe(device) {
  const form = device.closest("form");
  const says = device.querySelector("[role=status]");
  const asked = new URLSearchParams([...new FormData(form)].filter(([name]) => ["lift", "place", "at"].includes(name)));
  says.textContent = says.dataset.asking;
  try {
    const answer = await fetch(`${device.dataset.probe}?${asked}&what=${device.dataset.what}`, { signal: AbortSignal.timeout(6000) });
    const { fields, trouble } = await answer.json();
    says.textContent = trouble ?? says.dataset.kept;
    for (const [name, value] of Object.entries(fields ?? {})) form.elements[name].value = value;
  } catch {
    says.textContent = says.dataset.silent;
  }
}

document.addEventListener("keydown", (event) => {
  const device = event.key === "+" && event.target.id === "entry" && event.target.form?.querySelector(".device");
  if (!device) return;
  event.preventDefault();
  askLevel(device);
});

// The line of stages is one stop on the way of Tab, and so is a room's row of pages; arrows go along it. What a stage
// opens hangs under it.
const stopsOf = (line) => [...line.querySelectorAll("a, button")];
function rove(line) {
  const stops = stopsOf(line);
  const at = stops.includes(document.activeElement) ? document.activeElement : line.querySelector("[aria-current], .in-hand") ?? stops[0];
  for (const stop of stops) stop.tabIndex = stop === at ? 0 : -1;
}
document.addEventListener("focusin", (event) => event.target.closest("[data-roves]") && rove(event.target.closest("[data-roves]")));
document.addEventListener("keydown", (event) => {
  const line = event.target.closest?.("[data-roves]");
  if (!line || event.altKey || event.ctrlKey || event.metaKey || event.shiftKey) return;
  const stops = stopsOf(line);
  const here = stops.indexOf(event.target);
  const next = { ArrowRight: here + 1, ArrowLeft: here - 1, Home: 0, End: stops.length - 1 }[event.key];
  if (next === undefined || here < 0) return;
  event.preventDefault();
  stops[Math.min(Math.max(next, 0), stops.length - 1)].focus();
});
document.addEventListener("beforetoggle", (event) => {
  const line = document.getElementById("course");
  if (!line || event.newState !== "open" || !event.target.matches(".at-stage")) return;
  event.target.style.setProperty("--under", `${line.getBoundingClientRect().bottom}px`);
}, true);

document.addEventListener("keydown", (event) => {
  const plan = event.target.closest?.("#plan");
  const way = { ArrowRight: "right", ArrowLeft: "left", ArrowUp: "up", ArrowDown: "down" }[event.key];
  if (!plan || !way || event.altKey || event.ctrlKey || event.metaKey || event.shiftKey) return;
  if (event.target.closest("summary, details, button")) return;
  event.preventDefault();
  const surface = document.querySelector("#shown [name=surface]").value;
  const query = new URLSearchParams({ surface, station: plan.dataset[way] });
  htmx.ajax("GET", `?${query}`, { target: "#pad", swap: "outerHTML" }).then(() => document.querySelector("#plan .plan-pane")?.focus());
});

// ? lists the keys, wherever nothing is typed, for whoever is signed in.
const KEYS = "/help/keys/";
document.addEventListener("keydown", async (event) => {
  if (event.key !== "?" || !document.body.dataset.person || event.target.closest?.("input, textarea, select, [contenteditable]")) return;
  if (!document.getElementById("keys")) {
    const answer = await fetch(KEYS).catch(() => globalThis.caches?.match(KEYS, { ignoreVary: true })); // as taken along
    if (!answer?.ok) return tell("needsSignal");
    const said = await answer.text();
    if (!document.getElementById("keys")) document.body.insertAdjacentHTML("beforeend", said);
  }
  document.getElementById("keys").togglePopover();
});

// What hangs open over the page closes by Escape, which gives the focus back, and by a press beside it.
const HANGING = "details[data-hangs][open]";
document.addEventListener("keydown", (event) => {
  if (event.key !== "Escape") return;
  for (const open of document.querySelectorAll(HANGING)) {
    const within = open.contains(document.activeElement);
    open.open = false;
    if (within) open.querySelector("summary").focus();
  }
});
document.addEventListener("pointerdown", (event) => {
  for (const open of document.querySelectorAll(HANGING)) if (!open.contains(event.target)) open.open = false;
});

document.addEventListener("click", (event) => {
  const drawing = event.target.closest("#plan svg");
  const east = document.querySelector("#pad.placing [name=east]");
  if (!drawing || !east) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());
  const { west, north, perMetre } = drawing.dataset;
  const step = Number(east.dataset.metres);
  east.value = ((Number(west) + at.x / perMetre) / step).toFixed(2);
  document.querySelector("#pad [name=north]").value = ((Number(north) - at.y / perMetre) / step).toFixed(2);
  east.closest("details").open = true;
}, true);

document.addEventListener("htmx:configRequest", (event) => {
  if (event.detail.verb === "post") event.detail.parameters.device_at = new Date().toISOString();
});

// What was typed is still there; what was only looked up comes with the next news.
for (const failure of ["htmx:sendError", "htmx:responseError", "htmx:timeout"]) {
  document.addEventListener(failure, (event) => {
    if (!event.detail.requestConfig?.kept) tell(event.detail.requestConfig?.verb === "get" ? "noNews" : "notSent");
  });
}

// A stage is drawn anew by whatever anybody records: what one is typing in it, where one stands in it and what is open
// are carried over, but for the form that was just sent. A chosen photo and what was said to be wrong cannot be: the
// news waits until that is dealt with.
const FORM_NAMES = ["ask", "check", "finding", "withdraws", "slot"];
const formKey = (form) => [form?.getAttribute("action"), ...FORM_NAMES.map((name) => form?.elements[name]?.value ?? "")].join(" ");
const fieldsOf = (stage) => [...stage.querySelectorAll("form textarea, form select, form input:not([type=hidden], [type=file])")];
const changed = (field) => (field.options ? !field.selectedOptions[0]?.defaultSelected && field.selectedIndex > 0 : field.value !== field.defaultValue);
let carried = null;

// A length being typed stays: others' news of the pegs or the rails waits until it is sent.
const TOLD = /^(?:pegs-taped|rails-set|edges-set|courses-taped|cuts-made|[a-z]+-told)$/;
const WITHIN = "#pegs-taped, #rails-set, #edges-set, #courses-taped, #cuts-made, [id$=-told][data-known]";
let looking = false;
document.addEventListener("htmx:beforeSwap", (event) => (looking = event.detail.requestConfig?.verb === "get"), true);
document.addEventListener("htmx:oobBeforeSwap", (event) => {
  const { target } = event.detail;
  if (!looking || target.id === "layout-told" || !TOLD.test(target.id)) return;
  if (![...target.querySelectorAll(TYPED)].some(changed)) return;
  event.detail.shouldSwap = false;
  setTimeout(() => htmx.trigger(document.body, "recorded"), 3000);
});

// So does what is typed into one form while another's press is on its way, and what was refused there, with why: the
// answer draws both anew.
const TYPED = "input:not([type=hidden], [type=radio], [type=checkbox], [type=file])";
const typedIn = () => [...document.querySelectorAll(`:is(${WITHIN}) form :is(${TYPED})`)];
let typed = new Map();
const beside = (field) => [...field.form.querySelectorAll(".wrong")].find((each) => each.id === field.getAttribute("aria-describedby"));
const why = (field) => (field.ariaInvalid === "true" && (beside(field) ?? field.form.querySelector(".wrong"))?.textContent) || "";
function refuse(field, reason) {
  field.ariaInvalid = "true";
  const place = beside(field) ?? field.form.appendChild(Object.assign(document.createElement("p"), { className: "wrong", role: "alert" }));
  place.textContent = reason;
}
const onTheirWay = new Set(); // forms that were sent, by what they say
function keepTyped() {
  const others = typedIn().filter((field) => !onTheirWay.has(formAndHidden(field.form)));
  typed = new Map(others.filter((field) => changed(field) || why(field)).map((field) => [controlKey(field), [field.value, why(field)]]));
}
document.addEventListener("htmx:beforeSwap", keepTyped);
document.addEventListener("htmx:afterSettle", () => {
  for (const field of typedIn()) {
    const [value, reason] = typed.get(controlKey(field)) ?? [];
    if (value === undefined || changed(field) || why(field)) continue;
    field.value = value;
    if (reason) refuse(field, reason);
  }
});

document.addEventListener("htmx:beforeSwap", (event) => {
  const stage = document.getElementById("stage");
  if (event.detail.target !== stage || !event.detail.shouldSwap) return;
  const sent = event.detail.requestConfig.elt.closest?.("form");
  const chosen = [...stage.querySelectorAll("[type=file]")].some((file) => file.value && file.form !== sent);
  if (chosen || (!sent && stage.querySelector(".wrong[role=alert]"))) {
    event.detail.shouldSwap = false;
    setTimeout(() => htmx.trigger(document.body, "recorded"), 3000);
    return;
  }
  const mine = fieldsOf(stage).filter((field) => field.form !== sent);
  carried = {
    values: new Map(mine.filter(changed).map((field) => [`${formKey(field.form)} ${field.name}`, field.value])),
    open: new Set([...stage.querySelectorAll("details[open] form")].filter((form) => form !== sent).map(formKey)),
    focus: mine.includes(document.activeElement) && `${formKey(document.activeElement.form)} ${document.activeElement.name}`,
  };
});

document.addEventListener("htmx:afterSwap", () => {
  const stage = document.getElementById("stage");
  if (!carried || !stage) return;
  for (const form of stage.querySelectorAll("details form")) {
    if (carried.open.has(formKey(form))) form.closest("details").open = true;
  }
  for (const field of fieldsOf(stage)) {
    const key = `${formKey(field.form)} ${field.name}`;
    if (carried.values.has(key)) field.value = carried.values.get(key);
    if (carried.focus === key) field.focus();
  }
  carried = null;
});

document.addEventListener("htmx:afterRequest", (event) => event.detail.successful && tell());

function tell(what) {
  const place = document.getElementById("told");
  if (what === "noNews" && document.querySelector("#signal.away")) return;
  place.textContent = what ? place.dataset[what] : "";
}

// News asked for one thing must not be shown once another is in hand, or once the page knows more: look again for that.
const ON_SCREEN = `#here, #shown input, #lift-here, #lift-shown input, #stage, ${WITHIN}`;
const onScreen = () => [...document.querySelectorAll(ON_SCREEN)].map((each) => `${each.value ?? ""} ${each.dataset.known ?? ""}`).join("|");
const askedOver = new WeakMap(); // what was shown, by the request for news of it
document.addEventListener("htmx:beforeRequest", (event) => {
  if (event.target.hasAttribute("data-news")) askedOver.set(event.detail.xhr, onScreen());
});
document.addEventListener("htmx:beforeSwap", (event) => {
  const over = askedOver.get(event.detail.xhr);
  if (over === undefined || over === onScreen()) return;
  event.detail.shouldSwap = false;
  htmx.trigger(document.body, "recorded");
});

// What is shown does not go back: what was looked up before others' news came is not drawn over it, and after one's own
// answer that was on its way for longer it is looked again.
const KNOWN = new RegExp(`id="(?:here|lift-here|stage|${TOLD.source.slice(4, -2)})"[^>]*data-known="(\\d+)"`);
const known = () => Number(document.querySelector(`#here, #lift-here, #stage, ${WITHIN}`)?.dataset.known ?? 0);
document.addEventListener("htmx:beforeSwap", notBack);
function notBack(event) {
  const came = KNOWN.exec(event.detail.xhr.responseText);
  if (!came || Number(came[1]) >= known()) return;
  const { elt, verb } = event.detail.requestConfig;
  if (elt === document.body) event.detail.shouldSwap = false;
  else if (verb !== "get") setTimeout(() => htmx.trigger(document.body, "recorded"));
}

// An answer whose place was drawn anew meanwhile goes where that is now: htmx would draw it into what is gone.
document.addEventListener("htmx:beforeSend", ({ detail: { target: place, xhr } }) => {
  const find = (event) => {
    if (event.detail.xhr !== xhr || place.isConnected) return;
    event.detail.target = document.getElementById(place.id) ?? place;
    hold(); // what listens on the document hears nothing of what is gone
    notBack(event);
  };
  if (!place?.id) return;
  place.addEventListener("htmx:beforeSwap", find);
  xhr.addEventListener("loadend", () => place.removeEventListener("htmx:beforeSwap", find));
});

// One whose form was drawn anew: htmx looks for what it brings within what is gone.
document.addEventListener("htmx:beforeSend", ({ detail: { elt, target: place, xhr, requestConfig } }) => {
  if (requestConfig.verb !== "post") return;
  const said = formAndHidden(elt.closest("form"));
  onTheirWay.add(said);
  let gone = false;
  xhr.addEventListener("readystatechange", () => (gone ||= xhr.readyState === XMLHttpRequest.DONE && !elt.isConnected));
  xhr.addEventListener("load", () => {
    if (!gone || place?.id || (xhr.status !== 200 && xhr.status !== 422)) return;
    looking = false;
    hold();
    keepTyped();
    notBack({ detail: { xhr, requestConfig } });
    htmx.swap("body", xhr.responseText, { swapStyle: "none" });
  });
  xhr.addEventListener("loadend", () => onTheirWay.delete(said));
});

function listen({ live, job, known: from }) {
  if (!live || from === undefined) return;
  const news = new EventSource(`${live}?known=${from}&job=${job ?? ""}`);
  const look = () => htmx.trigger(document.body, "recorded");
  // Who is on the job and what just happened comes with the news; where it does not, it is asked for. An answer still on
  // its way when news come is older than they are, and is let go.
  const meet = (company) => {
    const line = document.getElementById("company");
    if (!line || !company) return htmx.trigger(document.body, "came");
    htmx.trigger(line, "htmx:abort");
    line.innerHTML = company;
  };
  news.addEventListener("entry", (event) => {
    const entry = JSON.parse(event.data);
    if (job && entry.job !== job) return;
    if (job) meet(entry.company);
    // One's own entry is on its way back already: wait for it, then look only if it is not shown yet.
    setTimeout(() => known() < entry.number && look(), 250);
  });
  news.addEventListener("look", () => {
    look();
    meet();
  });
  news.addEventListener("here", (event) => {
    const came = JSON.parse(event.data);
    if (!job || came.job === job) meet(came.company);
  });
  news.addEventListener("open", () => tell());
  news.addEventListener("error", () => {
    tell("noNews");
    document.dispatchEvent(new Event("silence"));
  });
  addEventListener("pagehide", () => news.close());
}

document.addEventListener("DOMContentLoaded", () => listen(document.body.dataset));

// The focus goes on to what comes next: after a press to what the server marks as next, else to the same control again,
// else to the first main press; after others' news it stays where it was.
const CONTROLS = "button, input:not([type=hidden]), select, textarea, summary, a[href]";
const hiddenOf = (form) => [...(form?.querySelectorAll("input[type=hidden]") ?? [])].filter((field) => !["entry_id", "csrfmiddlewaretoken"].includes(field.name)).map((field) => `${field.name}=${field.value}`).join(" ");
const formAndHidden = (form) => `${form?.getAttribute("action") ?? ""}|${hiddenOf(form)}`;
const controlKey = (control) => [control.tagName, control.id, control.name, control.type === "submit" ? control.value : "", formAndHidden(control.form ?? control.closest("form")), control.matches("button, summary, a") ? control.textContent.replace(/[\d\s]+/g, " ").trim() : ""].join("|");
const isThere = (control) => control && control.getClientRects().length > 0 && !control.disabled;
const isLost = () => !document.activeElement || document.activeElement === document.body;
let held = null;
let pressed = false;
let sent = 0; // presses on their way: others' news may come before their answers, and the next press before either

const hold = () => {
  const control = document.activeElement;
  if (control && control !== document.body && control.matches(CONTROLS)) held = controlKey(control);
};
document.addEventListener("htmx:beforeRequest", (event) => {
  if (!isPress(event)) return;
  pressed = true;
  hold();
});
document.addEventListener("pressed", () => (pressed = true));
document.addEventListener("answered", () => {
  pressed = true;
  goOn();
});
const isPress = (event) => event.detail.requestConfig.verb === "post";
document.addEventListener("htmx:beforeSend", (event) => {
  if (!isPress(event)) return;
  sent += 1;
  event.detail.xhr.addEventListener("loadend", () => (sent -= 1)); // htmx says nothing where its place was drawn anew
});
document.addEventListener("htmx:beforeSwap", hold, true);
document.addEventListener("htmx:oobBeforeSwap", hold, true);
document.addEventListener("htmx:afterSettle", () => goOn());

const done = () => ([pressed, held] = [pressed && sent > 0, null]);

function goOn() {
  const main = document.getElementById("main");
  const same = () => held && [...main.querySelectorAll(CONTROLS)].find((control) => isThere(control) && controlKey(control) === held);
  const marked = () => [...main.querySelectorAll("[data-next], [data-next-in] :is(input, select, button)")].find(isThere);
  const wrong = () => pressed && main.querySelector("[aria-invalid=true]");
  const first = () => pressed && [...main.querySelectorAll(".press:not(.quiet)")].find(isThere);
  // Whoever has gone on to type elsewhere while the press was on its way is left there.
  if (!isLost() && (typed.has(controlKey(document.activeElement)) || !(pressed && (wrong() || marked())))) {
    if (pressed) done();
    return;
  }
  const next = (typed.has(held) && same()) || wrong() || (pressed ? marked() || same() || first() : same());
  if (next) next.focus();
  else if (pressed) main.focus();
  if (next || pressed) done();
}

// What an answer says is said aloud too, in a place that was there before it: the verdict, what to move, what stands.
let aloud = "";
const spoken = (node) => {
  const copy = node.cloneNode(true);
  for (const named of copy.querySelectorAll("[aria-label]")) named.replaceWith(` ${named.getAttribute("aria-label")} `);
  for (const silent of copy.querySelectorAll("[aria-hidden=true], button, form, input, select, a")) silent.remove();
  return copy.textContent.replace(/\s+/g, " ").trim();
};
function say(within) {
  const words = [...document.querySelectorAll("#main [data-says]")].filter((each) => within.contains(each) || each.contains(within));
  const text = words.map(spoken).join(" ");
  if (!text || text === aloud) return;
  aloud = text;
  document.getElementById("says").textContent = text;
}
document.addEventListener("DOMContentLoaded", () => (aloud = [...document.querySelectorAll("#main [data-says]")].map(spoken).join(" ")));
document.addEventListener("htmx:load", (event) => document.readyState === "complete" && say(event.detail.elt));
document.addEventListener("shown", () => say(document.getElementById("main")));

// A form that leads to another page: there too the focus is not left at the top.
document.addEventListener("submit", (event) => !event.defaultPrevented && event.target.method === "post" && sessionStorage.setItem("pressed", "1"));
document.addEventListener("DOMContentLoaded", () => {
  const came = sessionStorage.getItem("pressed");
  sessionStorage.removeItem("pressed");
  if (!came || !isLost()) return;
  pressed = true;
  goOn();
});

// What was made meanwhile is saved by itself.
document.addEventListener("made", (event) => location.assign(event.detail.where));
