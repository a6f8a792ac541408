// What waits on this device: every entry with what may be done about it. Nothing leaves unless it is written or whoever
// made it says so.
import * as outbox from "./outbox.js";
import { canKeep } from "./keeping.js";
import { clockOff } from "./said.js";
import * as store from "./store.js";
import { clock, counted, element, fill, lifted, phrase, span } from "./words.js";

const place = () => document.getElementById("waiting");
const mending = new Map(); // what is being typed into a refused entry, by entry and field

export async function begin() {
  if (!place()) return;
  document.getElementById("not-opened").hidden = location.pathname === "/waiting/";
  store.onChange(show);
  outbox.onSignal(show);
  document.getElementById("send-now").addEventListener("click", async () => {
    outbox.setSignal(true, false);
    await outbox.drain();
    await show();
  });
  await show();
}

async function show() {
  await lifted();
  const entries = await store.mine();
  const order = { refused: 0, differs: 1, waiting: 2 };
  entries.sort((one, other) => order[one.state] - order[other.state] || one.order - other.order);
  document.getElementById("nothing-waits").hidden = entries.length > 0;
  document.getElementById("send-now").hidden = !entries.some((entry) => entry.state === "waiting");
  fill(place(), entries.map((entry) => row(entry, entries)));
  await showDevice();
}

function row(entry, entries) {
  const held = entry.state === "waiting" && outbox.heldBy(entry, entries);
  const standing = {
    refused: () => entry.refusal.message,
    differs: () => phrase(place(), "differs", { then: entry.told.says, now: entry.verdict.says }),
    waiting: () => (held ? phrase(place(), "held", { what: held.what }) : phrase(place(), "waits")),
  }[entry.state]();
  const about = [entry.jobName, clock(entry.at), entry.told && phrase(place(), "told", { says: entry.told.says })].filter(Boolean).join(" · ");
  if (entry.state === "waiting" && !held) return compact(entry, about);
  return element(
    "li",
    { class: entry.state, "data-entry": entry.id },
    element("p", {}, element("strong", { class: "text-xl" }, entry.what), entry.typed ? ` ${entry.typed}` : ""),
    element("p", { class: "small" }, about),
    element("p", { class: "says" }, standing),
    waysOf(entry),
  );
}

// What only waits takes a line; what may be done about it opens.
function compact(entry, about) {
  const says = entry.kind === outbox.SIGN_OFF && element("p", { class: "says" }, phrase(place(), "provisional"));
  const summary = element("summary", { class: "opens" }, element("span", {}, element("strong", {}, entry.what), entry.typed ? ` ${entry.typed}` : "", element("br"), element("span", { class: "small" }, about)));
  return element("li", { class: "waiting", "data-entry": entry.id }, element("details", {}, summary, waysOf(entry)), says || null);
}

const button = (text, act, css = "press quiet low-key") => {
  const made = element("button", { type: "button", class: css }, text);
  made.addEventListener("click", act);
  return made;
};

function waysOf(entry) {
  const ways = element("div", { class: "ways" });
  if (entry.state === "differs") {
    ways.append(element("a", { class: "press quiet low-key", href: `/jobs/${entry.job}/ground/?${new URLSearchParams({ surface: outbox.value(entry, "surface"), station: outbox.value(entry, "station") })}` }, phrase(place(), "go", { station: outbox.value(entry, "station") })));
    ways.append(button(phrase(place(), "seen"), () => store.forget(entry.id)));
    return ways;
  }
  for (const way of entry.refusal?.ways ?? []) {
    if (way.does === "go") ways.append(element("a", { class: "press quiet low-key", href: way.to }, way.says));
    else if (way.does === "again") ways.append(button(way.says, () => again(entry, way.sets), "press low-key"));
    else if (way.does === "mend") ways.append(mend(entry, way));
  }
  ways.append(button(phrase(place(), "save"), () => save([entry])));
  ways.append(button(phrase(place(), "leave"), () => confirm(phrase(place(), "sure", { what: entry.what })) && store.forget(entry.id)));
  return ways;
}

// Sent again with what its maker has said about it.
async function again(entry, sets) {
  const fields = entry.fields.filter(([name]) => !(name in sets));
  await store.alter(entry, { fields: [...fields, ...Object.entries(sets)], state: "waiting", refusal: null, told: null });
  outbox.setSignal(true, false);
  await outbox.drain();
}

function mend(entry, way) {
  const key = `${entry.id} ${way.to}`;
  const options = way.choices.map(([value, text]) => element("option", { value }, text));
  const input = options.length ? element("select", { class: "field low" }, ...options) : element("input", { class: "field low", autocomplete: "off" });
  if (!options.length || mending.has(key)) input.value = mending.get(key) ?? outbox.value(entry, way.to);
  input.addEventListener("input", () => mending.set(key, input.value));
  const form = element("form", { class: "mends" }, element("label", { class: "small" }, way.says, input), element("button", { class: "press low-key" }, phrase(place(), "mend")));
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    again(entry, { [way.to]: input.value });
  });
  return form;
}

// Entries as a file, photos beside their names: for the lead, where the one who made them may not send them any more.
async function save(entries) {
  const read = (blob) => new Promise((done) => {
    const reader = new FileReader();
    reader.onload = () => done(reader.result);
    reader.readAsDataURL(blob);
  });
  const told = await Promise.all(
    entries.map(async (entry) => ({
      job: entry.jobName,
      by: entry.personName,
      at: entry.at,
      what: entry.what,
      address: entry.action,
      fields: await Promise.all(entry.fields.map(async ([name, value]) => [name, value instanceof Blob ? await read(value) : value])),
      refused: entry.refusal?.message ?? null,
    })),
  );
  const address = URL.createObjectURL(new Blob([JSON.stringify({ format: "nivelum-unsent/1", entries: told }, null, 1)], { type: "application/json" }));
  const link = element("a", { href: address, download: `unsent-${entries[0].id.slice(0, 8)}.json` });
  link.click();
  setTimeout(() => URL.revokeObjectURL(address), 10_000);
}

// What there is to know of this device: whose entries else wait here, its clock, whether it keeps anything.
async function showDevice() {
  const said = [];
  for (const [name, n] of Object.entries(await store.others())) said.push(counted(place(), "others", n, { name }));
  if (!(await store.isKeeping())) said.push(phrase(place(), "keepsNothing"));
  else if (!(await canKeep())) said.push(phrase(place(), "keepsNoPages"));
  else if (!(await navigator.storage?.persisted?.())) said.push(phrase(place(), "notPromised"));
  const { usage, quota } = (await navigator.storage?.estimate?.()) ?? {};
  if (quota && usage / quota > 0.9) said.push(phrase(place(), "full"));
  const off = await clockOff();
  if (off) said.push(phrase(document.getElementById("signal"), off > 0 ? "ahead" : "behind", { long: span(off) }));
  document.getElementById("device-says").replaceChildren(...said.map((words) => element("li", { class: "note" }, words)));
  await showKept();
}

// The pages that open without a signal, by job.
async function showKept() {
  const list = document.getElementById("kept-pages");
  const person = store.person();
  if (!list || !globalThis.caches || !person) return;
  const cache = await caches.open(`pages of ${person}`);
  const jobs = new Map();
  for (const request of await cache.keys()) {
    const found = /^\/jobs\/([0-9a-f-]{36})\//.exec(new URL(request.url).pathname);
    if (!found) continue;
    const known = jobs.get(found[1]) ?? { pages: 0, url: null };
    known.pages += 1;
    known.url = `/jobs/${found[1]}/ground/`;
    if (!known.name) {
      const text = await (await cache.match(request, { ignoreVary: true })).text();
      known.name = /data-job-name="([^"]*)"/.exec(text)?.[1];
    }
    jobs.set(found[1], known);
  }
  const rows = [...jobs.values()].map(({ name, pages, url }) => {
    const decoded = new DOMParser().parseFromString(name ?? "", "text/html").body.textContent;
    return element("li", {}, element("a", { href: url }, decoded), " ", counted(list, "pages", pages));
  });
  list.replaceChildren(...rows);
  list.previousElementSibling.hidden = !rows.length;
}
