// What the device keeps: entries until the server has acknowledged them, in the order they were made, and what travels
// with a job. Everything is one person's: nobody else's session reads it.
import { openDB } from "idb";

const opened = (async () =>
  openDB("nivelum", 1, {
    upgrade(db) {
      db.createObjectStore("outbox", { keyPath: "order", autoIncrement: true }).createIndex("id", "id", { unique: true });
      db.createObjectStore("sheets");
      db.createObjectStore("notes");
    },
  }))();
opened.catch(() => {});

const changes = new BroadcastChannel("nivelum-outbox");
const listeners = new Set();
changes.addEventListener("message", () => listeners.forEach((listener) => listener()));

export const person = () => document.body.dataset.person ?? "";

// Calls `listener` whenever the outbox has changed, in this tab or another.
export function onChange(listener) {
  listeners.add(listener);
}

function changed() {
  changes.postMessage("changed");
  listeners.forEach((listener) => listener());
}

// Keeps an entry; sent twice by a hasty thumb it is still one. Throws where the device has no room or keeps nothing.
export async function keep(entry) {
  const db = await opened;
  const known = await db.getFromIndex("outbox", "id", entry.id);
  await db.put("outbox", known ? { ...entry, order: known.order } : entry);
  changed();
}

export async function alter(entry, change) {
  const db = await opened;
  const transaction = db.transaction("outbox", "readwrite");
  const found = await transaction.store.index("id").get(entry.id);
  if (found) await transaction.store.put({ ...found, ...change });
  await transaction.done;
  changed();
}

export async function forget(id) {
  const db = await opened;
  const key = await db.getKeyFromIndex("outbox", "id", id);
  if (key !== undefined) await db.delete("outbox", key);
  changed();
}

// What entries are that an earlier version kept, which went by the address they are sent to.
const KIND_AT = { readings: "reading", corrections: "correction", "set-up": "set_up", fills: "fill", strikes: "strike", sign: "sign_off" };
const named = (entry) => ({ ...entry, kind: entry.kind ?? KIND_AT[entry.action.split("/").at(-2)] ?? "" });

const everybodys = async () => {
  try {
    return (await (await opened).getAll("outbox")).map(named);
  } catch {
    return [];
  }
};

// One's own entries in the order they were made, of one job or of all.
export async function mine(job) {
  return (await everybodys()).filter((entry) => entry.person === person() && (!job || entry.job === job));
}

// How many entries of whom else wait on this device, by name: that they are there, not what they say.
export async function others() {
  const counts = {};
  for (const entry of await everybodys()) {
    if (entry.person !== person()) counts[entry.personName] = (counts[entry.personName] ?? 0) + 1;
  }
  return counts;
}

export async function isKeeping() {
  try {
    await opened;
    return true;
  } catch {
    return false;
  }
}

const mark = (name) => `${person()} ${name}`;

export async function note(name, value) {
  await (await opened).put("notes", value, mark(name));
}

export async function noted(name) {
  try {
    return await (await opened).get("notes", mark(name));
  } catch {
    return undefined;
  }
}

export async function keepSheet(job, sheet) {
  await (await opened).put("sheets", sheet, mark(job));
}

// What travels with jobs goes when somebody signs out; what waits does not.
export async function dropSheets() {
  try {
    await (await opened).clear("sheets");
  } catch {
    // nothing is kept here
  }
}

export async function sheetOf(job) {
  try {
    return await (await opened).get("sheets", mark(job));
  } catch {
    return undefined;
  }
}
