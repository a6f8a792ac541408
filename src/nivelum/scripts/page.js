// Every page: what is typed goes through the outbox; what waits, was refused or is only provisional is said where it
// was made and over the page; how old a page is that is shown without a signal.
import * as outbox from "./outbox.js";
import * as pad from "./pad.js";
import * as store from "./store.js";
import { clock, counted, element, phrase, span } from "./words.js";

const WRONG_CLOCK = 5 * 60_000;
const loadedAt = Date.now();
const sending = new Map(); // entries on their way with a page in return, by id
let kept = false; // something on this page was kept without the server having drawn it since

const bar = () => document.getElementById("signal");

export function tell(what) {
  const place = document.getElementById("told");
  if (place) place.textContent = what ? (place.dataset[what] ?? "") : "";
}

// Keeps what a form sends; null where this device keeps nothing, which is said.
async function keepForm(form, submitter) {
  const entry = outbox.entryOf(form, submitter, pad.toldFor(form));
  try {
    await store.keep(entry);
    return entry;
  } catch {
    tell("notKept");
    return null;
  }
}

// Whether an entry may go at once: there is a signal and nothing waits before it.
async function mayGo(entry) {
  if (outbox.isAway() || outbox.isSignedOut()) return false;
  return !(await store.mine()).some((other) => other.state === "waiting" && other.id !== entry.id && !sending.has(other.id));
}

// The entry stays on the device for now: its form is ready for the next one.
async function stayHere(form, entry) {
  kept = true;
  navigator.storage?.persist?.();
  if (pad.isOnPad(form) && (await pad.kept(entry))) return;
  if (!form.isConnected) return;
  form.elements.entry_id.value = crypto.randomUUID();
  for (const field of form.querySelectorAll("input:not([type=hidden], [type=radio], [type=checkbox], [list]), textarea")) field.value = "";
  form.closest("details")?.removeAttribute("open");
  await show();
}

document.addEventListener("htmx:confirm", (event) => {
  const { elt, verb, path, target, question, issueRequest, triggeringEvent } = event.detail;
  if (verb === "get") {
    if (outbox.isAway() && pad.goes(path, target)) event.preventDefault();
    return;
  }
  const form = elt.closest("form");
  if (form && outbox.isAway() && !outbox.isKept(form)) {
    event.preventDefault();
    tell("needsSignal");
    return;
  }
  if (!outbox.isKept(form)) return;
  event.preventDefault();
  if (question && !confirm(question)) return;
  if (pad.refuses(form)) return;
  keepForm(form, triggeringEvent?.submitter).then(async (entry) => {
    if (entry && !(await mayGo(entry))) {
      await stayHere(form, entry);
      return void outbox.drain();
    }
    if (entry) sending.set(entry.id, { entry, form });
    issueRequest(true);
  });
});

document.addEventListener("htmx:configRequest", (event) => {
  const { verb, parameters, headers } = event.detail;
  if (verb !== "post") return;
  headers["Nivelum-Person"] = store.person();
  const found = sending.get(parameters.entry_id);
  event.detail.kept = Boolean(found);
  for (const name of ["device_at", "answered_number", "answered_version"]) {
    const value = found && outbox.value(found.entry, name);
    if (value) parameters[name] = value;
  }
});

document.addEventListener("htmx:afterRequest", async (event) => {
  const { xhr, requestConfig } = event.detail;
  const found = requestConfig?.verb === "post" && sending.get(requestConfig.parameters.entry_id);
  if (!found) {
    if (requestConfig?.verb === "get" && xhr?.status === 0) {
      outbox.setSignal(false);
      pad.goes(requestConfig.path, requestConfig.target);
    }
    if (xhr?.status === 401) outbox.setSignal(true, true);
    return;
  }
  const { entry, form } = found;
  sending.delete(entry.id);
  if ((xhr.getResponseHeader("Nivelum-Written") ?? "").split(" ").includes(entry.id)) {
    outbox.setSignal(true);
    await store.forget(entry.id);
  } else if (xhr.status === 422) await store.forget(entry.id); // said beside the field, and still typed there
  else if (xhr.status === 0 || xhr.status >= 500) {
    outbox.setSignal(false);
    tell();
    await stayHere(form, entry);
  } else if (xhr.status === 401) {
    outbox.setSignal(true, true);
    await stayHere(form, entry);
  } else await outbox.drain(); // answered without a word of the entry: asked again what became of it
});

// A form without htmx: sent by itself, and the page it leads to is fetched once it is written.
document.addEventListener("submit", async (event) => {
  const form = event.target;
  if (form.dataset.signsOut !== undefined) return signOut(event);
  if ((event.submitter?.formMethod || form.method) !== "post" || form.hasAttribute("hx-post") || form.dataset.straight !== undefined) return;
  if (!outbox.isKept(form)) {
    if (outbox.isAway()) {
      event.preventDefault();
      tell("needsSignal");
    }
    return;
  }
  event.preventDefault();
  if (pad.refuses(form)) return;
  const entry = await keepForm(form, event.submitter);
  if (!entry) return straight(form, event.submitter);
  if (await mayGo(entry)) {
    sending.set(entry.id, { entry, form });
    const answer = await outbox.send(entry);
    sending.delete(entry.id);
    if (answer.outcome === "written") {
      await outbox.settle(entry, answer);
      return void location.reload();
    }
    if (answer.outcome === "refused" && !["role", "left"].includes(answer.refusal.code)) {
      await store.forget(entry.id);
      return straight(form, event.submitter); // the page says what is wrong, beside its field
    }
    await outbox.settle(entry, answer);
  }
  await stayHere(form, entry);
  outbox.drain();
});

function straight(form, submitter) {
  form.dataset.straight = "";
  form.requestSubmit(submitter);
}

async function signOut(event) {
  const form = event.target;
  if (form.dataset.straight !== undefined) return;
  event.preventDefault();
  if (outbox.isAway()) await outbox.ask();
  if (outbox.isAway()) return tell("needsSignal");
  const waiting = (await store.mine()).filter((entry) => entry.state !== "differs").length;
  if (waiting && !confirm(counted(form, "waits", waiting))) return;
  navigator.serviceWorker?.controller?.postMessage({ signedOut: true });
  form.dataset.straight = "";
  form.submit();
}

// What the page says of the outbox, wherever it says it; while it is being said, once more is enough.
let showing = null;
let stale = false;

export async function show() {
  stale = true;
  showing ??= (async () => {
    while (stale) {
      stale = false;
      await showOnce();
    }
  })().finally(() => (showing = null));
  return showing;
}

async function showOnce() {
  const entries = await store.mine();
  const { job } = document.body.dataset;
  const ofJob = entries.filter((entry) => entry.job === job);
  await showBar(entries);
  showNotes(ofJob);
  showStages(ofJob);
  showJobs(entries);
  for (const form of document.querySelectorAll("[data-signs-away]")) form.hidden = !outbox.isAway() && !ofJob.length;
  await pad.show(ofJob);
}

// Said where there is room for it.
const wide = (words) => element("span", { class: "wide" }, words);

async function showBar(entries) {
  const place = bar();
  if (!place) return;
  const waiting = entries.filter((entry) => entry.state === "waiting");
  const refused = entries.filter((entry) => entry.state === "refused");
  const differs = entries.filter((entry) => entry.state === "differs");
  const said = [];
  if (outbox.isAway() && document.getElementById("told").textContent === document.getElementById("told").dataset.noNews) tell();
  const since = document.body.dataset.kept;
  if (outbox.isSignedOut()) said.push(element("a", { href: "/sign-in/" }, phrase(place, "signedOut")));
  else if (outbox.isAway()) {
    said.push(element("strong", {}, phrase(place, "away")));
    if (since) said.push(wide(phrase(place, "seen", { when: clock(since) })), phrase(place, "age", { long: span(Date.now() - new Date(since)) }));
  } else if (kept || since !== undefined) said.push(element("a", { href: location.href }, phrase(place, "back")));
  const off = await clockOff();
  if (off) said.push(phrase(place, off > 0 ? "ahead" : "behind", { long: span(off) }));
  const list = place.dataset.list;
  if (waiting.length) said.push(element("a", { href: list }, counted(place, "waits", waiting.length), wide(phrase(place, "since", { when: clock(waiting[0].at) }))));
  if (refused.length) said.push(element("a", { href: list, class: "refused" }, counted(place, "refused", refused.length)));
  if (differs.length) said.push(element("a", { href: list, class: "refused" }, counted(place, "differs", differs.length)));
  place.hidden = !said.length;
  place.className = `signal${outbox.isAway() ? " away" : ""}`;
  place.replaceChildren(...said.filter(Boolean).flatMap((words) => [element("span", {}, words), " "]));
}

// By how much this device's clock is off the server's, where it is too much; asked when a page comes straight from it.
export async function clockOff() {
  const { at, kept: old } = document.body.dataset;
  if (at && old === undefined) {
    await store.note("clock", loadedAt - new Date(at)).catch(() => {});
  }
  const off = (await store.noted("clock")) ?? 0;
  return Math.abs(off) > WRONG_CLOCK ? off : 0;
}

function showNotes(entries) {
  document.querySelectorAll(".waits-here").forEach((old) => old.remove());
  const said = new Set();
  for (const form of document.querySelectorAll("form")) {
    if (!form.elements.entry_id || form.closest("#pad[data-away]")) continue;
    const place = outbox.placeOf(form);
    const here = entries.filter((entry) => entry.place === place);
    const signs = form.action.endsWith("/sign-offs/sign/");
    if (signs) showSigned(form, here.some((entry) => entry.state === "waiting"));
    if (!here.length || said.has(here[0].place)) continue;
    said.add(here[0].place); // a question has a form for each answer
    form.after(noteOf(here, signs));
  }
}

// A stage one has signed without a signal says so in place of its form and over it.
function showSigned(form, signed) {
  const says = document.getElementById("gate-says");
  form.hidden = signed;
  says.dataset.was ??= says.textContent;
  says.textContent = signed ? phrase(bar(), "signedAway") : says.dataset.was;
}

function noteOf(here, signs) {
  const place = bar();
  const rows = here.map((entry) => {
    const when = clock(entry.at);
    const says = entry.state === "refused" ? phrase(place, "refusedHere", { why: entry.refusal.message }) : phrase(place, signs ? "signedHere" : "waitsHere", { when });
    return element("li", { class: entry.state }, element("strong", {}, entry.what), entry.typed ? ` ${entry.typed} ` : " ", says);
  });
  return element("div", { class: "waits-here", role: "status" }, element("ul", {}, ...rows));
}

// A signature made without a signal shows in the line of stages, as what it is.
function showStages(entries) {
  document.querySelectorAll("#course .provisional").forEach((old) => old.remove());
  for (const entry of entries.filter((entry) => entry.action.endsWith("/sign-offs/sign/"))) {
    const stone = document.querySelector(`#course a[href$="stage=${CSS.escape(outbox.value(entry, "stage"))}"]`);
    stone?.append(element("span", { class: "provisional" }, phrase(bar(), entry.state === "refused" ? "refusedStage" : "provisional")));
  }
}

function showJobs(entries) {
  document.querySelectorAll("#jobs .waits-job").forEach((old) => old.remove());
  for (const link of document.querySelectorAll("#jobs a[href]")) {
    const waiting = entries.filter((entry) => link.getAttribute("href") === `/jobs/${entry.job}/`);
    if (waiting.length) link.children[1].append(element("span", { class: "waits-job" }, counted(bar(), "waits", waiting.length)));
  }
}

// What the server has drawn since everything arrived is shown, unless somebody is typing.
async function arrived() {
  await show();
  if (pad.isShown()) return pad.leave();
  const typing = [...document.querySelectorAll("main form :is(input:not([type=hidden]), textarea)")].some((field) => field.type !== "radio" && field.type !== "checkbox" && field.value !== field.defaultValue);
  if (typing) return;
  if (document.querySelector("#stage, #lift-here") && document.body.dataset.kept === undefined) {
    kept = false;
    await show();
    return htmx.trigger(document.body, "recorded");
  }
  if (document.getElementById("waiting")) return;
  if (kept || document.body.dataset.kept !== undefined) location.reload();
}

export function begin() {
  store.onChange(show);
  outbox.onSignal(async () => {
    await show();
    if (!outbox.isAway() && !(await store.mine()).some((entry) => entry.state === "waiting")) await arrived();
  });
  outbox.onArrival(arrived);
  document.addEventListener("htmx:afterSettle", show);
  outbox.begin();
  show();
}
