// Entries go here first and leave only when the server has named them as written. They are sent in the order they were
// made, one after the other, by one tab at a time; sent twice they are there once, for each brings its own identifier.
import * as store from "./store.js";

const PATIENCE = 20_000;
const SLOWEST = 120_000; // a photo over a thin signal
export const SIGN_OFF = "sign_off";
const AGAIN_EVERY = 5_000;
const LONGEST_REST = 120;
const NOT_TYPED = new Set(["csrfmiddlewaretoken", "entry_id", "device_at", "answered_version", "answered_number", "seen"]);

// Entries on their way with a page in return, by id: kept like the others, and neither sent twice nor said to wait.
export const flying = new Set();

let restUntil = 0; // a server that has too much to do says when to come back

let signal = true;
let signedOut = false;
const watchers = new Set();

export const isAway = () => !signal;
export const isSignedOut = () => signedOut;
export const onSignal = (watcher) => watchers.add(watcher);

export function setSignal(there, out = false) {
  const was = [signal, signedOut];
  [signal, signedOut] = [there, out];
  if (was[0] !== signal || was[1] !== signedOut) watchers.forEach((watcher) => watcher());
}

const cookie = (name) => document.cookie.split("; ").find((pair) => pair.startsWith(`${name}=`))?.slice(name.length + 1) ?? "";

// Whether what a form sends is kept: an entry of the record, of somebody signed in, proven by nothing but their session.
export function isKept(form) {
  if (form?.method !== "post" || !form.elements.entry_id || form.dataset.needsSignal !== undefined || !store.person()) return false;
  const pin = form.elements.pin?.value;
  const signer = form.elements.signer?.value;
  return !pin && (!signer || signer === store.person());
}

// Where an entry was made: the address it goes to and what its form says without being typed.
export function placeOf(form) {
  const hidden = [...form.querySelectorAll("input[type=hidden]")].filter((field) => !NOT_TYPED.has(field.name));
  return [new URL(form.action).pathname, ...hidden.map((field) => `${field.name}=${field.value}`).sort()].join(" ");
}

// What was on the screen that an entry answers: how far the record was seen, and which version of the design.
function answeredTo() {
  const shown = document.querySelector("#here, #lift-here, #stage, #pegs-taped, #rails-set, #edges-set, #courses-taped, #cuts-made, [id$=-told][data-known]")?.dataset ?? {};
  return { number: shown.known ?? document.body.dataset.known, version: shown.version ?? document.body.dataset.version };
}

// An entry as a form has it now.
export function entryOf(form, submitter, told = null) {
  const data = new FormData(form, submitter);
  const { number, version } = answeredTo();
  data.delete("csrfmiddlewaretoken");
  data.set("device_at", new Date().toISOString());
  if (number) data.set("answered_number", number);
  if (version) data.set("answered_version", version);
  const { person, personName, job, jobName } = document.body.dataset;
  const typed = [...form.elements].filter((field) => field.value && field.name !== "signer" && field.matches?.("input:not([type=hidden], [type=checkbox], [type=radio]), textarea, select, input[type=radio]:checked"));
  const shown = typed.map((field) => (field.type === "file" ? [...field.files].map((file) => file.name).join(", ") : field.options ? field.selectedOptions[0].textContent.trim() : field.value));
  const name = submitter?.dataset.what ?? form.dataset.what ?? submitter?.textContent ?? form.querySelector("button")?.textContent ?? "";
  return {
    id: data.get("entry_id"),
    kind: form.dataset.kind ?? "",
    person,
    personName,
    job,
    jobName,
    action: new URL(form.action).pathname,
    place: placeOf(form),
    fields: [...data.entries()],
    at: data.get("device_at"),
    what: name.replace(/\s+/g, " ").trim(),
    typed: shown.filter(Boolean).join(", "),
    told,
    state: "waiting",
  };
}

export const waits = (entry) => entry.state === "waiting" && !flying.has(entry.id);

export const value = (entry, name) => entry.fields.find(([key]) => key === name)?.[1] ?? "";

// What else in the outbox an entry names: its set-up, what it strikes out or corrects.
const names = (entry, other) => entry.id !== other.id && entry.fields.some(([, said]) => said === other.id);

// Entries not sent yet that `entry` cannot go before: what it names, and for a signature whatever was refused.
function waitsFor(entry, refused) {
  const signs = entry.kind === SIGN_OFF;
  return refused.find((other) => names(entry, other) || (signs && other.job === entry.job));
}

// The server's own mistake over one entry holds up none of the others.
function stumbled() {
  const { broken, again } = document.getElementById("signal").dataset;
  return { code: "broken", message: broken, ways: [{ does: "again", says: again, sets: {}, choices: [] }] };
}

/** @typedef {{outcome: string, verdict?: any, refusal?: any}} Outcome */

// What came of sending one entry: written, refused, or `away`, `signed-out`, `elsewhere` where it was not judged at all.
export async function send(entry) {
  const body = new FormData();
  for (const [name, said] of entry.fields) body.append(name, said);
  const headers = { Accept: "application/json", "X-CSRFToken": cookie("csrftoken"), "Nivelum-Person": entry.person };
  const signalled = AbortSignal.timeout(entry.fields.some(([, said]) => said instanceof Blob) ? SLOWEST : PATIENCE);
  let response, answer;
  try {
    response = await fetch(entry.action, { method: "POST", body, headers, redirect: "manual", signal: signalled });
    if (response.status === 401 || response.type === "opaqueredirect") return { outcome: "signed-out" };
    if (response.status === 500) return { outcome: "refused", refusal: stumbled() };
    if (response.status > 500 || [408, 429].includes(response.status)) {
      restUntil = Date.now() + Math.min(Number(response.headers.get("Retry-After")) || 0, LONGEST_REST) * 1000;
      return { outcome: "away" };
    }
    answer = await response.json();
  } catch (error) {
    return { outcome: response && !(error instanceof DOMException) ? (response.status === 403 ? "signed-out" : "elsewhere") : "away" };
  }
  if (answer.written === entry.id) return { outcome: "written", verdict: answer.verdict };
  if (answer.refused === "person") return { outcome: "signed-out" };
  if (answer.refused) return { outcome: "refused", refusal: { code: answer.refused, message: answer.message, ways: answer.ways } };
  return { outcome: "elsewhere" };
}

// What follows for the entry from what came of it. True where the next may be sent.
/** @param {any} entry @param {Outcome} came */
export async function settle(entry, { outcome, verdict, refusal }) {
  if (outcome === "written") {
    const differs = entry.told && verdict && entry.told.says !== verdict.says;
    await (differs ? store.alter(entry, { state: "differs", verdict }) : store.forget(entry.id));
  } else if (outcome === "refused") await store.alter(entry, { state: "refused", refusal });
  setSignal(outcome !== "away" && outcome !== "elsewhere", outcome === "signed-out");
  return outcome === "written" || outcome === "refused";
}

const locks = navigator.locks ?? { request: async (name, options, act) => act({ name }) };
let sending = null;
let more = false; // asked to send while it was at it
let arrived = (/** @type {Set<string>} */ _jobs) => {};
export const onArrival = (listener) => (arrived = listener);

// Sends what waits, oldest first. Another tab that is at it already is left to it.
export function drain() {
  more = Boolean(sending);
  sending ??= locks.request("nivelum-outbox", { ifAvailable: true }, async (lock) => lock && all()).finally(() => {
    sending = null;
    if (more) return drain();
  });
  return sending;
}

async function all() {
  let sent = 0;
  const jobs = new Set();
  const tried = new Set();
  for (;;) {
    const entries = await store.mine();
    const refused = entries.filter((entry) => entry.state === "refused");
    const next = entries.find((entry) => waits(entry) && !tried.has(entry.id) && !waitsFor(entry, refused));
    if (!next) break;
    tried.add(next.id);
    if (!(await settle(next, await send(next)))) break;
    sent += 1;
    jobs.add(next.job);
  }
  if (sent) arrived(jobs);
  return sent;
}

// Why an entry does not go though there is a signal: the refused one it hangs on.
export const heldBy = (entry, entries) => waitsFor(entry, entries.filter((other) => other.state === "refused"));

// Whether there is a signal: asked of the server itself, for a device says it is connected to what leads nowhere.
export async function ask(event) {
  if (document.hidden || Date.now() < restUntil) return;
  const waiting = (await store.mine()).some(waits);
  if (waiting && !signedOut) {
    await drain();
    if (signal) return;
  } else if (signal && event?.type !== "silence") return;
  try {
    const response = await fetch("/signal/", { cache: "no-store", signal: AbortSignal.timeout(PATIENCE) });
    if (response.ok && response.headers.get("Nivelum-Signal")) setSignal(true, signedOut);
  } catch {
    setSignal(false);
  }
}

export function begin() {
  if (document.body.dataset.kept !== undefined) setSignal(false);
  addEventListener("online", ask);
  document.addEventListener("silence", ask);
  document.addEventListener("visibilitychange", ask);
  setInterval(ask, AGAIN_EVERY);
  ask();
}
