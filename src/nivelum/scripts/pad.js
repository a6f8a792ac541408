// Ground without a signal: the pad drawn from the sheet that travels with the job, and the plan with what was read since.
// Adds, subtracts and compares what the sheet holds; what is right or wrong was decided by the core.
import * as outbox from "./outbox.js";
import { joined, MOST_SAID, onward, setUpOn, surfaceOf, tableOf, targetOf } from "./sheet.js";
import * as store from "./store.js";
import { clock, element, phrase } from "./words.js";

// What the pad knows and where it stands. `sheet` is what travels with the job; `place` where one is, once the pad is drawn
// here; `stand` what is in hand, as chosen here; `told` the entry whose verdict stands over the pad; `typedAgain` what was
// struck out, to be mended. `entries` are what is kept here of the job, oldest first, `live` those of them that count,
// `places` the readings among these by surface and station, `corrections` the newest correction of an entry.
const state = {
  /** @type {any} */ sheet: null,
  /** @type {{surface: string, station: string} | null} */ place: null,
  /** @type {string | null} */ stand: null,
  /** @type {string | null} */ told: null,
  typedAgain: "",
  settingUp: false,
  /** @type {any[]} */ entries: [],
  /** @type {any[]} */ live: [],
  /** @type {Map<string, any[]>} */ places: new Map(),
  /** @type {Map<string, any>} */ corrections: new Map(),
};
const BELOW = ["over-dug", "unexplained", "unsound fill", "low"]; // standings that stone has to make up for
const CLOSE = ["too close", "filled"];

const job = () => document.body.dataset.job;
const template = () => document.getElementById("pad-away");
const here = () => document.getElementById("pad");

export const isShown = () => here()?.dataset.away !== undefined;
export const isOnPad = (form) => Boolean(template() && form.closest("#pad"));

// --- what the sheet says ---

const spot = (key, station) => `${key} ${station}`;
const readings = () => state.live.filter((entry) => entry.kind === "reading");

// What is kept here, sorted out once.
function know(all) {
  state.entries = all;
  const struck = new Set(state.entries.map((entry) => outbox.value(entry, "strikes")).filter(Boolean));
  state.live = state.entries.filter((entry) => entry.state !== "refused" && !struck.has(entry.id));
  state.corrections = new Map(state.live.filter((entry) => entry.kind === "correction").map((entry) => [outbox.value(entry, "corrects"), entry]));
  state.places = new Map();
  for (const entry of readings()) {
    const at = spot(outbox.value(entry, "surface"), outbox.value(entry, "station"));
    state.places.set(at, [...(state.places.get(at) ?? []), entry]);
  }
}

// Levels set up on this device and not known to the server yet.
function ownStands() {
  const made = state.live.filter((entry) => entry.kind === "set_up");
  const found = made.map((entry) =>
    setUpOn(state.sheet, {
      id: entry.id,
      tool: outbox.value(entry, "tool"),
      mark: outbox.value(entry, "mark"),
      backsight: foretell.metres(corrected(entry, "backsight"), state.sheet.unit),
      placed: Boolean(outbox.value(entry, "east")),
    }),
  );
  return found.filter(Boolean);
}

const stands = () => [...state.sheet.stands, ...ownStands()];

function inHand() {
  const all = stands();
  return all.find((each) => each.id === state.stand) ?? ownStands().at(-1) ?? all.find((each) => each.id === state.sheet.held) ?? all[0];
}

const wasShot = (key, station) => surfaceOf(state.sheet, key).shot.includes(station) || readingsAt(key, station).length > 0;
const readingsAt = (key, station) => state.places.get(spot(key, station)) ?? [];

function corrected(entry, field = "reading") {
  const change = state.corrections.get(entry.id);
  return outbox.value(change ?? entry, change ? "reading" : field);
}

// The table of the next reading at a station, by the sheet and by what was read there on this device and is not sent:
// null where only the server can say, since something was over-dug or filled here, or shot a third time.
function tableNow(from, key, station, same, until = Infinity) {
  const earlier = readingsAt(key, station).filter((entry) => entry.order < until);
  const last = earlier.at(-1);
  if (same && last) {
    const whole = outbox.value(last, "same_ground") !== "true" && outbox.value(last, "set_up") === from?.id && verdictOf(last);
    return whole ? tableOf(state.sheet, from, key, station, true, foretell.metres(corrected(last), state.sheet.unit)) : null;
  }
  const filled = state.live.some((entry) => entry.kind === "fill" && outbox.value(entry, "station") === station);
  const overDug = earlier.some((entry) => BELOW.includes(verdictOf(entry)?.standing ?? "low"));
  const table = tableOf(state.sheet, from, key, station, same);
  return table && surfaceOf(state.sheet, key).remembers && (filled || overDug) ? { ...table, judged: false } : table;
}

// What a reading kept here comes to; null where the server has to say.
export function verdictOf(entry) {
  const [key, station] = [outbox.value(entry, "surface"), outbox.value(entry, "station")];
  const from = stands().find((each) => each.id === outbox.value(entry, "set_up"));
  const table = surfaceOf(state.sheet, key) && tableNow(from, key, station, outbox.value(entry, "same_ground") === "true", entry.order);
  return table?.judged ? foretell.verdict(table, corrected(entry), state.sheet.unit) : null;
}

const next = (key, station) => onward(state.sheet, station, (name) => !wasShot(key, name) && tableOf(state.sheet, inHand(), key, name, false));

// --- what is typed ---

// What the form on the pad was told its reading comes to, to be held against what the server makes of it.
export function toldFor(form) {
  if (form.id !== "reading") return null;
  const data = JSON.parse(document.getElementById("foretold-data")?.textContent || "null");
  return data && foretell.verdict(data.tables[form.elements.same_ground?.checked ? 1 : 0], form.elements.reading.value, data.unit);
}

// Whether something typed without a signal cannot be a reading; said beside it, and nothing is kept.
export function refuses(form) {
  const entry = form.querySelector("#entry");
  form.querySelector(".cannot")?.remove();
  if (!outbox.isAway() || !isShown() || !isOnPad(form) || !entry || !state.sheet) return false;
  if (foretell.metres(entry.value, state.sheet.unit) !== null) return false;
  const wrong = element("p", { class: "wrong cannot", role: "alert", id: "entry-wrong" }, phrase(template(), "cannot", { typed: entry.value.trim() || "—" }));
  entry.setAttribute("aria-invalid", "true");
  entry.closest("div").after(wrong);
  entry.select();
  return true;
}

// An entry made on the pad stays here: the pad goes on to what comes next. False where this pad has nothing to go on.
export async function kept(entry) {
  know(await store.mine(job()));
  if (!(await hasSheet())) return false;
  const at = { surface: outbox.value(entry, "surface"), station: outbox.value(entry, "station") };
  if (at.surface && at.station) state.place = at;
  state.place ??= asked();
  [state.typedAgain, state.settingUp] = ["", false];
  if (entry.kind === "reading") {
    state.told = entry.id;
    state.place.station = next(state.place.surface, state.place.station);
  } else if (entry.kind === "set_up") {
    if (!ownStands().some((each) => each.id === entry.id)) return false;
    [state.stand, state.told] = [entry.id, null];
  } else if (entry.kind === "strike") {
    const struck = state.entries.find((other) => other.id === outbox.value(entry, "strikes"));
    state.typedAgain = struck ? outbox.value(struck, "reading") : "";
    state.told = null;
  } else if (entry.kind !== "correction" && entry.kind !== "fill") return false;
  draw();
  return true;
}

// --- where one goes ---

const asked = (query = new URLSearchParams(location.search)) => {
  const surface = surfaceOf(state.sheet, query.get("surface") ?? document.querySelector("#shown [name=surface]")?.value)?.key ?? state.sheet.surfaces[0].key;
  const station = state.sheet.stations.includes(query.get("station")) ? query.get("station") : null;
  return { surface, station: station ?? (wasShot(surface, state.sheet.stations[0]) ? next(surface, state.sheet.stations[0]) : state.sheet.stations[0]) };
};

// Whether this pad goes where the page would have asked the server for: a station, or setting up.
export function goes(path, target) {
  const url = new URL(path, location.href);
  if (!template() || !state.sheet || url.pathname !== location.pathname || target?.id !== "pad") return false;
  const pane = url.searchParams.get("pane");
  if (pane && pane !== "anew") return false;
  const shown = document.querySelector("#shown [name=surface]").value;
  if ((url.searchParams.get("surface") ?? shown) !== shown) {
    location.assign(url);
    return true;
  }
  state.place = asked(url.searchParams);
  [state.told, state.typedAgain, state.settingUp] = [null, "", pane === "anew"];
  draw();
  return true;
}

// --- drawing ---

function fill(pad, values) {
  for (const [name, value] of Object.entries(values)) for (const gap of pad.querySelectorAll(`[data-fill=${name}]`)) gap.textContent = value;
}

function part(pad, name, shown) {
  const found = pad.querySelector(`[data-part=${name}]`);
  if (!shown) found.remove();
  return shown ? found : null;
}

function draw() {
  const pad = template().content.cloneNode(true).querySelector("#pad");
  const from = inHand();
  const to = from && !state.settingUp;
  const surface = surfaceOf(state.sheet, state.place.surface);
  const fields = { station: state.place.station, surface: state.place.surface, set_up: from?.id ?? "", shown_set_up: from?.id ?? "", shown_tool: from?.tool ?? "" };
  for (const field of pad.querySelectorAll("input[type=hidden]")) {
    if (field.name === "entry_id") field.value = crypto.randomUUID();
    else if (field.name in fields) field.value = fields[field.name];
  }
  Object.assign(pad.querySelector("#here").dataset, { known: state.sheet.number, version: state.sheet.version });
  fill(pad, { station: state.place.station, surface: surface.word, hand: from?.name ?? "" });
  drawTold(pad);
  drawHand(pad, from);
  const read = part(pad, "read", to);
  const anew = part(pad, "set-up", !to);
  if (read) drawRead(pad, read, from);
  if (anew) {
    drawSetUp(anew);
    pad.querySelector("[data-part=skip]").remove();
  }
  for (const form of pad.querySelectorAll("form[data-what]")) {
    form.dataset.what = phrase(form, "what", { station: state.place.station, surface: surface.word });
  }
  here().replaceWith(pad);
  htmx.process(pad);
  wake(pad);
  pad.querySelector("#entry")?.focus({ preventScroll: true });
  history.replaceState(null, "", `?${new URLSearchParams(state.place)}`);
  drawPlan();
}

function drawTold(pad) {
  const entry = state.live.find((each) => each.id === state.told);
  const found = entry && verdictOf(entry);
  const box = part(pad, "told", entry);
  const log = part(pad, "fill", [...BELOW, ...CLOSE].includes(found?.standing));
  if (!box) return;
  const station = outbox.value(entry, "station");
  box.className = `verdict v-${found?.css ?? "unknown"}`;
  fill(box, { told: `${station}: ${found?.says ?? phrase(template(), "serverSays")}`, typed: phrase(template(), "notSent", { typed: corrected(entry), when: clock(entry.at) }) });
  if (found) {
    const mark = document.getElementById(found.mark).cloneNode(true);
    mark.removeAttribute("id");
    box.querySelector("svg").append(mark);
  } else box.querySelector("svg").remove();
  fill(box, { back: phrase(template(), "back", { station }) });
  point(box.querySelector("[data-part=back]"), outbox.value(entry, "surface"), station);
  for (const field of box.querySelectorAll("[name=strikes], [name=corrects]")) field.value = entry.id;
  for (const of of log ? [box, log] : [box]) {
    for (const field of of.querySelectorAll("input[type=hidden][name=station]")) field.value = station;
    for (const form of of.querySelectorAll("form[data-what]")) form.dataset.what = phrase(form, "what", { station, surface: surfaceOf(state.sheet, outbox.value(entry, "surface")).word });
  }
}

function point(link, surface, station) {
  const to = `?${new URLSearchParams({ surface, station })}`;
  for (const name of ["href", "hx-get"]) link.setAttribute(name, to);
}

function drawHand(pad, from) {
  const list = pad.querySelector("[data-part=stands]");
  for (const each of stands()) {
    const button = element("button", { type: "button", class: "press quiet", "aria-current": each.id === from?.id && "true" }, each.name);
    button.addEventListener("click", () => {
      [state.stand, state.settingUp] = [each.id, false];
      draw();
    });
    list.append(button);
  }
  const anew = element("button", { type: "button", class: "press quiet" }, phrase(template(), "anew"));
  anew.addEventListener("click", () => {
    state.settingUp = true;
    draw();
  });
  list.append(anew);
  if (!from) pad.querySelector(".hand").remove();
}

function drawRead(pad, read, from) {
  const { surface, station } = state.place;
  const fresh = tableOf(state.sheet, from, surface, station, false);
  const target = targetOf(fresh);
  const shot = wasShot(surface, station);
  fill(read, { target: target === null ? "—" : foretell.reading(target, state.sheet.unit) });
  for (const words of read.querySelectorAll("[data-method]")) if (words.dataset.method !== (from.method === "optical" ? "laser" : from.method)) words.remove();
  part(read, "same", shot);
  part(read, "nothing", target === null);
  part(read, "sight", target !== null && (target < 0 || target > from.reach));
  const tables = [tableNow(from, surface, station, false), shot ? tableNow(from, surface, station, true) : null];
  read.querySelector("#foretold-data").textContent = JSON.stringify({ unit: state.sheet.unit, tables: tables.map((table) => (table?.judged ? table : null)) });
  const again = read.querySelector("[name=same_ground]");
  if (again) again.checked = readingsAt(surface, station).length === 1 && CLOSE.includes(verdictOf(readingsAt(surface, station)[0])?.standing);
  read.querySelector("#entry").value = state.typedAgain;
  const after = next(surface, station);
  const skip = pad.querySelector("[data-part=skip]");
  skip.textContent = phrase(template(), "skip", { station: after });
  point(skip, surface, after);
  const left = state.sheet.stations.filter((name) => !wasShot(surface, name)).length;
  fill(pad, { left: left ? phrase(template(), "left", { n: left }) : "" });
}

function drawSetUp(form) {
  const list = form.querySelector("[data-part=marks]");
  const tools = form.querySelector("select[name=tool]");
  for (const each of state.sheet.about) tools.append(element("option", { value: each.tool }, each.name));
  (state.sheet.about[0]?.marks ?? []).forEach((mark, n) => {
    const choice = element("label", { class: "choice" }, element("input", { type: "radio", name: "mark", value: mark.name, checked: n === 0 && "" }), element("span", {}, `${mark.name} `, element("span", { class: "figure" }, mark.level)));
    list.append(choice);
  });
}

// The plan as last seen, and over it what was read on this device and is not sent.
function drawPlan() {
  const plan = document.querySelector("#plan svg.plan");
  if (!plan || !state.sheet) return;
  const key = document.querySelector("#shown [name=surface]").value;
  if (isShown() && state.place) {
    plan.querySelector(".walk")?.remove();
    const sight = plan.querySelector(".sight");
    const chosen = plan.querySelector(`[data-station="${CSS.escape(state.place.station)}"]`);
    plan.querySelector(".station.chosen")?.classList.remove("chosen");
    chosen?.classList.add("chosen");
    if (sight && chosen) chosen.querySelector(".reach").after(sight);
    document.dispatchEvent(new Event("shown")); // the plan follows
    const stake = document.querySelector("#stake");
    if (stake && stake.querySelector("h2").textContent.trim() !== state.place.station) {
      stake.replaceChildren(element("h2", { class: "text-3xl px-2" }, state.place.station), element("p", { class: "small px-2" }, phrase(template(), "stake")));
    }
  }
  for (const entry of readings().filter((each) => outbox.value(each, "surface") === key)) {
    const name = outbox.value(entry, "station");
    const station = plan.querySelector(`[data-station="${CSS.escape(name)}"]`);
    const found = verdictOf(entry);
    if (!station) continue;
    station.classList.add("waits");
    const amount = !["good", "made good"].includes(found?.standing) && found?.amount;
    station.setAttribute("aria-label", `${amount ? `${name} ${amount}` : name}, ${found?.says ?? phrase(template(), "serverSays")}, ${phrase(template(), "unsent")}`);
    const mark = station.querySelector("use");
    if (!found || !mark) continue;
    mark.setAttribute("href", `#${found.mark}`);
    mark.setAttribute("class", `v-${found.css}`);
    station.querySelector(".amount")?.remove();
    if (amount) {
      const shown = document.createElementNS("http://www.w3.org/2000/svg", "text");
      for (const [attribute, value] of [["x", "13"], ["y", "17"], ["class", `amount v-${found.css}`]]) shown.setAttribute(attribute, value);
      shown.textContent = amount;
      station.append(shown);
    }
  }
}

export async function show(ofJob) {
  know(ofJob);
  if (template() && state.sheet && (readings().length || isShown())) drawPlan();
}

// Everything is sent: the pad is the server's again, where one stands, unless something is being typed. False where the
// whole page is as last seen, and wants fetching.
export function leave() {
  if (here().querySelector("#entry")?.value) return true;
  if (document.body.dataset.kept !== undefined) return false;
  const at = `?${new URLSearchParams(state.place)}`;
  [state.place, state.told, state.stand, state.settingUp] = [null, null, null, false];
  htmx.ajax("GET", at, { target: "#pad", swap: "outerHTML" }).catch(() => {}); // no signal after all: the pad stays
  return true;
}

// --- the sheet itself ---

async function hasSheet() {
  state.sheet ??= await store.sheetOf(job());
  return Boolean(state.sheet);
}

let fetching = null;

// Fetches the sheet where the one held is older than the page.
async function fetchSheet() {
  const known = Number(document.querySelector("#here")?.dataset.known ?? document.body.dataset.known ?? 0);
  await hasSheet();
  const changed = state.sheet && isOnGround() && !isShown() && state.sheet.held !== (document.querySelector("#shown [name=shown_set_up]")?.value || null);
  if (outbox.isAway() || (state.sheet && state.sheet.number >= known && !changed)) return;
  try {
    const has = Object.keys(state.sheet?.pieces ?? {}).slice(0, MOST_SAID);
    const response = await fetch(`${document.body.dataset.sheet}?has=${has}`, { headers: { Accept: "application/json" } });
    if (!response.ok) return;
    state.sheet = joined(await response.json(), state.sheet);
    await store.keepSheet(job(), state.sheet);
  } catch {
    // without a signal the one held has to do
  }
}

const isOnGround = () => Boolean(template());

function soon(after) {
  clearTimeout(fetching);
  fetching = setTimeout(fetchSheet, after);
}

export async function begin() {
  if (!job() || !document.body.dataset.sheet) return;
  know(await store.mine(job()));
  const old = document.body.dataset.kept !== undefined;
  if (await hasSheet()) {
    if (old && isOnGround() && here().querySelector("form")) {
      state.place = asked();
      draw();
    }
  }
  if (!old) soon(800);
  document.addEventListener("htmx:afterSettle", () => !isShown() && soon(1500));
}
