// Pages are kept by the worker: those of a job once it is opened, all of them where somebody takes it along.
import * as store from "./store.js";
import { clock, phrase } from "./words.js";

const FRESH_FOR = 30 * 60_000;

async function worker() {
  if (!("serviceWorker" in navigator)) return null;
  try {
    await navigator.serviceWorker.register("/worker.js");
    return (await navigator.serviceWorker.ready).active;
  } catch {
    return null;
  }
}

export const canKeep = async () => Boolean("serviceWorker" in navigator && (await navigator.serviceWorker.getRegistration().catch(() => null)));

// Has the worker keep these addresses; `progress` hears how many are there. How many could not be had comes back.
function keepAll(active, addresses, also, progress = (/** @type {number} */ _done) => {}) {
  return new Promise((resolve) => {
    const channel = new MessageChannel();
    channel.port1.onmessage = ({ data }) => {
      progress(data.done);
      if (data.failed !== undefined) resolve(data.failed);
    };
    active.postMessage({ keep: addresses, also, person: store.person() }, [channel.port2]);
  });
}

async function asked() {
  const response = await fetch(document.body.dataset.rooms, { headers: { Accept: "application/json" } });
  if (!response.ok) throw new Error(String(response.status));
  return response.json();
}

// Takes the whole job along: every room, leaf, stage, surface, lift and photo.
async function take(active, button) {
  button.disabled = true;
  try {
    const { rooms, all, also } = await asked();
    const failed = await keepAll(active, [...rooms, ...all], also, (done) => (button.textContent = phrase(button, "taking", { done, all: rooms.length + all.length })));
    if (failed) throw new Error(`${failed}`);
    await store.note(`taken ${document.body.dataset.job}`, { at: new Date().toISOString(), kept: Date.now() });
  } catch {
    button.textContent = phrase(button, "notTaken");
    button.disabled = false;
    return;
  }
  button.disabled = false;
  await said();
}

async function said() {
  const taken = await store.noted(`taken ${document.body.dataset.job}`);
  for (const button of document.querySelectorAll("[data-take]")) {
    button.hidden = false;
    if (taken) button.textContent = phrase(button, "taken", { when: clock(taken.at) });
  }
}

// Pages that one wants where there is no signal, as a page's links say.
async function keepLinked(active) {
  for (const link of document.querySelectorAll("a[data-keep]")) {
    const address = link.getAttribute("href");
    if (Date.now() - ((await store.noted(`kept ${address}`)) ?? 0) < FRESH_FOR) continue;
    // Its files first, through the worker, which keeps them: a page without its scripts is no page.
    for (const file of link.dataset.keep.split(" ")) await fetch(file).then((answer) => answer.text()).catch(() => {});
    const failed = await keepAll(active, [address], {});
    if (!failed) await store.note(`kept ${address}`, Date.now());
  }
}

export async function begin() {
  if (!store.person()) return;
  const active = await worker();
  if (!active) return;
  const { job, rooms, kept } = document.body.dataset;
  if (kept === undefined) setTimeout(() => keepLinked(active), 2500);
  if (!job || !rooms) return;
  await said();
  for (const button of document.querySelectorAll("[data-take]")) button.addEventListener("click", () => take(active, button));
  if (kept !== undefined) return;
  setTimeout(async () => {
    const taken = await store.noted(`taken ${job}`);
    const last = Math.max((await store.noted(`opened ${job}`)) ?? 0, taken?.kept ?? 0);
    if (Date.now() - last < FRESH_FOR) return;
    try {
      const lists = await asked();
      await store.note(`opened ${job}`, Date.now());
      await keepAll(active, taken ? [...lists.rooms, ...lists.all] : lists.rooms, lists.also);
      if (taken) await store.note(`taken ${job}`, { at: new Date().toISOString(), kept: Date.now() });
    } catch {
      // no signal any more: what is kept is kept
    }
  }, 2500);
}
