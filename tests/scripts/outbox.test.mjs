// The outbox: entries leave in the order they were made, once the server has named them, and never before what they hang on.
import assert from "node:assert/strict";
import "fake-indexeddb/auto";
import { beforeEach, test } from "node:test";

const body = { dataset: { person: "1", job: "j" } };
globalThis.document = {
  body,
  cookie: "csrftoken=c",
  hidden: false,
  addEventListener() {},
  getElementById: () => ({ dataset: { broken: "It stumbled.", again: "Send it again" } }),
};
globalThis.navigator ??= {};
globalThis.addEventListener = () => {};
globalThis.BroadcastChannel = class {
  addEventListener() {}
  postMessage() {}
};
const store = await import("../../src/nivelum/scripts/store.js");
const outbox = await import("../../src/nivelum/scripts/outbox.js");

const entry = (id, more = {}) => ({
  id, kind: "reading", person: "1", job: "j", action: "/jobs/j/ground/readings/", fields: [["entry_id", id]], state: "waiting", ...more,
});
let sent = [];

function answers(by) {
  sent = [];
  globalThis.fetch = async (_address, { body: form }) => {
    const id = form.get("entry_id");
    sent.push(id);
    const { status = 200, headers = {}, json = { written: id } } = by(id) ?? {};
    return { status, ok: status < 400, type: "basic", headers: new Headers(headers), json: async () => json };
  };
}
const refused = () => ({ status: 422, json: { refused: "wrong", message: "No.", ways: [] } });
const left = async () => (await store.mine()).map((each) => [each.id, each.state]);

beforeEach(async () => {
  for (const each of await store.mine()) await store.forget(each.id);
  outbox.setSignal(true);
});

test("they are sent oldest first and go when they are named as written", async () => {
  answers(() => undefined);
  for (const id of ["a", "b", "c"]) await store.keep(entry(id));
  assert.equal(await outbox.drain(), 3);
  assert.deepEqual([sent, await left()], [["a", "b", "c"], []]);
});

test("kept twice it is one, in its place", async () => {
  answers(() => undefined);
  for (const id of ["a", "b", "a"]) await store.keep(entry(id));
  await outbox.drain();
  assert.deepEqual(sent, ["a", "b"]);
});

test("an answer without a word of the entry leaves it and says there is no signal", async () => {
  answers(() => ({ json: { written: "another" } }));
  await store.keep(entry("a"));
  await store.keep(entry("b"));
  await outbox.drain();
  assert.deepEqual([sent, await left(), outbox.isAway()], [["a"], [["a", "waiting"], ["b", "waiting"]], true]);
});

test("what hangs on a refused one waits, what does not goes", async () => {
  answers((id) => (id === "a" ? refused() : undefined));
  await store.keep(entry("a", { kind: "set_up" }));
  await store.keep(entry("b", { fields: [["entry_id", "b"], ["set_up", "a"]] }));
  await store.keep(entry("c"));
  await outbox.drain();
  assert.deepEqual([sent, await left()], [["a", "c"], [["a", "refused"], ["b", "waiting"]]]);
});

test("a signature waits for whatever of its job was refused", async () => {
  answers((id) => (id === "a" ? refused() : undefined));
  await store.keep(entry("a"));
  await store.keep(entry("s", { kind: "sign_off" }));
  await store.keep(entry("t", { kind: "sign_off", job: "another" }));
  await outbox.drain();
  assert.deepEqual([sent, await left()], [["a", "t"], [["a", "refused"], ["s", "waiting"]]]);
});

test("the server's own mistake over one holds up none of the others", async () => {
  answers((id) => (id === "a" ? { status: 500 } : undefined));
  await store.keep(entry("a"));
  await store.keep(entry("b"));
  await outbox.drain();
  assert.deepEqual([sent, await left()], [["a", "b"], [["a", "refused"]]]);
  assert.equal((await store.mine())[0].refusal.message, "It stumbled.");
});

test("nobody else's entries are sent, and somebody signed out sends none", async () => {
  answers(() => ({ status: 401 }));
  await store.keep(entry("x", { person: "2" }));
  await store.keep(entry("a"));
  await outbox.drain();
  assert.deepEqual([sent, outbox.isSignedOut()], [["a"], true]);
  body.dataset.person = "2";
  assert.deepEqual(await left(), [["x", "waiting"]]);
  body.dataset.person = "1";
});

test("what came out otherwise than was told on the device is kept to be looked at", async () => {
  answers((id) => ({ json: { written: id, verdict: { css: "dig", says: "dig 34 mm" } } }));
  await store.keep(entry("a", { told: { css: "good", says: "good" } }));
  await store.keep(entry("b", { told: { css: "dig", says: "dig 34 mm" } }));
  await outbox.drain();
  assert.deepEqual(await left(), [["a", "differs"]]);
});

test("entries of an earlier version are known by the address they go to", async () => {
  for (const [id, at] of [["r", "ground/readings"], ["u", "ground/set-up"], ["g", "sign-offs/sign"], ["p", "lifts/pass"]]) {
    const old = entry(id, { action: `/jobs/j/${at}/` });
    delete old.kind;
    await store.keep(old);
  }
  assert.deepEqual((await store.mine()).map((each) => each.kind), ["reading", "set_up", "sign_off", ""]);
});
