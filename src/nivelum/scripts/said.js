// What a page says of the outbox: over the page, where an entry was made, in the line of stages and on the Yard; and how
// old a page is that is shown without a signal.
import * as outbox from "./outbox.js";
import * as pad from "./pad.js";
import * as store from "./store.js";
import { clock, counted, element, fill, lifted, phrase, span } from "./words.js";

const WRONG_CLOCK = 5 * 60_000;
const loadedAt = Date.now();
let old = false; // something on this page was kept without the server having drawn it since

const bar = () => document.getElementById("signal");

// Whether what the page shows is not what the server would draw now.
export const isOld = () => old || document.body.dataset.kept !== undefined;

export function setOld(is) {
  old = is;
}

export function tell(what) {
  const place = document.getElementById("told");
  if (place) place.textContent = what ? (place.dataset[what] ?? "") : "";
}

// What the page says of the outbox, wherever it says it; while it is being said, once more is enough.
let showing = null;
let stale = false;

export async function show() {
  stale = true;
  showing ??= (async () => {
    while (stale) {
      stale = false;
      await lifted();
      await showOnce();
    }
  })().finally(() => (showing = null));
  return showing;
}

async function showOnce() {
  const entries = (await store.mine()).filter((entry) => !outbox.flying.has(entry.id));
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
    if (since) said.push(wide(phrase(place, "seen", { when: clock(since) })), phrase(place, "age", { long: span(Date.now() - new Date(since).getTime()) }));
  } else if (old || since !== undefined) said.push(element("a", { href: location.href }, phrase(place, "back")));
  const off = await clockOff();
  if (off) said.push(phrase(place, off > 0 ? "ahead" : "behind", { long: span(off) }));
  const list = place.dataset.list;
  if (waiting.length) said.push(element("a", { href: list }, counted(place, "waits", waiting.length), wide(phrase(place, "since", { when: clock(waiting[0].at) }))));
  if (refused.length) said.push(element("a", { href: list, class: "refused" }, counted(place, "refused", refused.length)));
  if (differs.length) said.push(element("a", { href: list, class: "refused" }, counted(place, "differs", differs.length)));
  place.hidden = !said.length;
  place.className = `signal${outbox.isAway() ? " away" : ""}`;
  fill(place, said.filter(Boolean).map((words) => element("span", {}, words, " ")));
}

// By how much this device's clock is off the server's, where it is too much; asked when a page comes straight from it.
export async function clockOff() {
  const { at, kept } = document.body.dataset;
  if (at && kept === undefined) {
    await store.note("clock", loadedAt - new Date(at).getTime()).catch(() => {});
  }
  const off = (await store.noted("clock")) ?? 0;
  return Math.abs(off) > WRONG_CLOCK ? off : 0;
}

function showNotes(entries) {
  document.querySelectorAll(".waits-here").forEach((each) => each.remove());
  const said = new Set();
  let signed = false;
  for (const form of document.querySelectorAll("form")) {
    if (!form.elements.entry_id || form.closest("#pad[data-away]")) continue;
    const place = outbox.placeOf(form);
    const here = entries.filter((entry) => entry.place === place);
    const signs = form.dataset.kind === outbox.SIGN_OFF;
    if (signs) form.hidden = here.some((entry) => entry.state === "waiting");
    signed ||= signs && form.hidden;
    if (!here.length || said.has(place)) continue;
    said.add(place); // a question has a form for each answer
    form.after(noteOf(here, signs));
  }
  showGate(signed);
}

// A stage one has signed without a signal says so over its form.
function showGate(signed) {
  const says = document.getElementById("gate-says");
  if (!says) return;
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
  document.querySelectorAll("#course .provisional").forEach((each) => each.remove());
  for (const entry of entries.filter((each) => each.kind === outbox.SIGN_OFF)) {
    const stone = document.querySelector(`#course [data-stage="${CSS.escape(outbox.value(entry, "stage"))}"]`);
    stone?.append(element("span", { class: "provisional" }, phrase(bar(), entry.state === "refused" ? "refusedStage" : "provisional")));
  }
}

function showJobs(entries) {
  document.querySelectorAll("#jobs .waits-job").forEach((each) => each.remove());
  for (const link of document.querySelectorAll("#jobs a[href]")) {
    const waiting = entries.filter((entry) => link.getAttribute("href") === `/jobs/${entry.job}/`);
    if (waiting.length) link.children[1].append(element("span", { class: "waits-job" }, counted(bar(), "waits", waiting.length)));
  }
}
