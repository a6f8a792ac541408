// Every page: what is typed goes through the outbox before it goes anywhere, and what has arrived is fetched as the server
// draws it.
import * as outbox from "./outbox.js";
import * as pad from "./pad.js";
import * as store from "./store.js";
import { isOld, setOld, show, tell } from "./said.js";
import { counted } from "./words.js";

const AGAIN_AFTER = 20_000;
const sending = new Map(); // entries on their way with a page in return, by id

const handedOn = new Set(); // presses that the outbox sends, for the form was gone before it could

// Keeps what a form sends; null where this device keeps nothing, which is said.
async function keepForm(form, submitter) {
  const entry = outbox.entryOf(form, submitter, pad.toldFor(form));
  outbox.flying.add(entry.id);
  try {
    await store.keep(entry);
    return entry;
  } catch {
    outbox.flying.delete(entry.id);
    tell("notKept");
    return null;
  }
}

// Whether an entry may go at once: there is a signal and nothing waits before it.
async function mayGo(entry) {
  if (outbox.isAway() || outbox.isSignedOut()) return false;
  return !(await store.mine()).some((other) => outbox.waits(other) && other.id !== entry.id);
}

// The entry stays on the device for now: its form is ready for the next one.
async function stayHere(form, entry) {
  outbox.flying.delete(entry.id);
  setOld(true);
  navigator.storage?.persist?.();
  if (pad.isOnPad(form) && (await pad.kept(entry))) return;
  if (!form.isConnected) return;
  form.elements.entry_id.value = crypto.randomUUID();
  for (const field of form.querySelectorAll("input:not([type=hidden], [type=radio], [type=checkbox], [list]), textarea")) field.value = "";
  form.closest("details")?.removeAttribute("open");
  form.dispatchEvent(new CustomEvent("kept", { bubbles: true, detail: entry }));
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
    const goes = entry && (await mayGo(entry));
    if (!form.isConnected) { // the answer to the press before has drawn its place anew meanwhile
      if (!entry) return tell("notSent");
      handedOn.add(entry.id);
    }
    if (entry && !(goes && form.isConnected)) {
      await stayHere(form, entry);
      await outbox.drain();
      if ((await gone()).includes(entry.id)) await arrived(); // it went with what was just being sent
      return;
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

// A request given up for a newer one, or because the page is left, says nothing of the signal. htmx says so only after
// it has said that the request is over.
const givenUp = new WeakSet();
let leaving = false;
document.addEventListener("htmx:sendAbort", ({ detail }) => givenUp.add(detail.xhr));
addEventListener("pagehide", () => (leaving = true));
addEventListener("pageshow", () => (leaving = false));

// The request itself is listened to: htmx says nothing of one whose place on the page was drawn anew meanwhile.
document.addEventListener("htmx:beforeSend", (event) => event.detail.xhr.addEventListener("loadend", () => over(event.detail)));

async function over({ xhr, requestConfig }) {
  if (xhr?.status === 0) await null;
  const lost = xhr?.status === 0 && !leaving && !givenUp.has(xhr);
  const found = requestConfig?.verb === "post" && sending.get(requestConfig.parameters.entry_id);
  if (!found) {
    if (requestConfig?.verb === "get" && lost) {
      outbox.setSignal(false);
      pad.goes(requestConfig.path, requestConfig.target);
    }
    if (xhr?.status === 401) outbox.setSignal(true, true);
    return;
  }
  const { entry, form } = found;
  sending.delete(entry.id);
  const leave = () => store.forget(entry.id).finally(() => outbox.flying.delete(entry.id));
  if ((xhr.getResponseHeader("Nivelum-Written") ?? "").split(" ").includes(entry.id)) {
    outbox.setSignal(true);
    await leave();
  } else if (xhr.status === 422) await leave(); // said beside the field, and still typed there
  else if (lost || xhr.status >= 500) {
    outbox.setSignal(false);
    tell();
    await stayHere(form, entry);
  } else if (xhr.status === 401) {
    outbox.setSignal(true, true);
    await stayHere(form, entry);
  } else {
    outbox.flying.delete(entry.id);
    await outbox.drain(); // answered without a word of the entry: asked again what became of it
  }
}

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
    const answer = await outbox.send(entry);
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
  await store.dropSheets();
  form.dataset.straight = "";
  form.submit();
}

// The presses handed on that have gone since.
async function gone() {
  const kept = new Set((await store.mine()).map((entry) => entry.id));
  return [...handedOn].filter((id) => !kept.has(id));
}

// What the server has drawn since everything arrived is shown, unless somebody is typing.
async function arrived() {
  await show();
  const wasPressed = (await gone()).map((id) => handedOn.delete(id)).length > 0;
  if (wasPressed) document.dispatchEvent(new Event("pressed"));
  if (pad.isShown()) return pad.leave() || reload();
  const typing = [...document.querySelectorAll("main form :is(input:not([type=hidden]), textarea)")].some((field) => field.type !== "radio" && field.type !== "checkbox" && field.value !== field.defaultValue);
  if (typing) return;
  if (document.querySelector("#stage, #lift-here, #rails-set, #edges-set, #courses-taped, #cuts-made, [id$=-told][data-known]") && document.body.dataset.kept === undefined) {
    setOld(false);
    await show();
    const lift = [...document.querySelectorAll("#lift-here, #lift-shown input")].map((/** @type {any} */ field) => [field.name, field.value]);
    if (lift.length) {
      await htmx.ajax("GET", `?${new URLSearchParams(lift)}`, { target: "#lift", swap: "outerHTML" }).catch(() => {});
      if (wasPressed) document.dispatchEvent(new Event("answered")); // news may have come between, and taken the press for answered
      return;
    }
    return htmx.trigger(document.body, "recorded");
  }
  if (document.getElementById("waiting")) return;
  if (isOld()) reload();
}

// A server that is only slow is not asked for the same page over and over: after a try, the line over the page says it.
// Whoever is on the way to another page is not held back.
let left = 0;
addEventListener("beforeunload", () => (left = Date.now()));

function reload() {
  const last = Number(sessionStorage.getItem("reloaded") ?? 0);
  if (Date.now() - Math.max(last, left) < AGAIN_AFTER) return;
  sessionStorage.setItem("reloaded", String(Date.now()));
  location.reload();
}

export function begin() {
  store.onChange(show);
  outbox.onSignal(async () => {
    await show();
    if (!outbox.isAway()) document.dispatchEvent(new Event("signal"));
    if (!outbox.isAway() && !(await store.mine()).some(outbox.waits)) await arrived();
  });
  outbox.onArrival(arrived);
  document.addEventListener("htmx:afterSettle", show);
  outbox.begin();
  show();
}
