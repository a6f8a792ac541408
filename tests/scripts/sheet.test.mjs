// The sheet that travels with a job: what it says is added and looked up, worked out here by hand.
import assert from "node:assert/strict";
import { test } from "node:test";
import { joined, onward, setUpOn, surfaceOf, tableOf, targetOf } from "../../src/nivelum/scripts/sheet.js";

const SHEET = {
  most: 9,
  stations: ["A1", "A2", "B1"],
  surfaces: [{ key: "formation", design: [9.7, 9.6, 9.5] }],
  outcomes: ["fresh", "again", "recorded"],
  about: [{ tool: "7", name: "laser", method: "laser", reach: 6, marks: [{ name: "sill", height: 10 }] }],
};
const usual = [0, 1, null];
SHEET.about[0].marks[0].surfaces = { formation: { usual, guards: [0.004], again: [0.003], odd: {} } };

test("a level set up on a mark is as high as the mark and what the rod read", () => {
  const stand = setUpOn(SHEET, { id: "s", tool: "7", mark: "sill", backsight: 1.3 });
  assert.equal(stand.height, 11.3);
  assert.equal(setUpOn(SHEET, { id: "s", tool: "7", mark: "moon", backsight: 1.3 }), null);
  assert.equal(setUpOn(SHEET, { id: "s", tool: "8", mark: "sill", backsight: 1.3 }), null);
  assert.equal(setUpOn(SHEET, { id: "s", tool: "7", mark: "sill", backsight: null }), null);
});

test("what should be read is the height less the design, and a table is nought there", () => {
  const stand = setUpOn(SHEET, { id: "s", tool: "7", mark: "sill", backsight: 1.3 });
  const table = tableOf(SHEET, stand, "formation", "A2");
  assert.ok(Math.abs(targetOf(table) - 1.7) < 1e-12);
  assert.ok(Math.abs(table.offset + table.factor * targetOf(table)) < 1e-12);
  assert.deepEqual([table.outcomes, table.guard, table.judged], ["fresh", 0.004, true]);
});

test("the same ground shot again counts half of each reading", () => {
  const stand = setUpOn(SHEET, { id: "s", tool: "7", mark: "sill", backsight: 1.3 });
  const table = tableOf(SHEET, stand, "formation", "A1", true, 1.58);
  // read 1.58 and then 1.62 where 1.60 is right: the mean is right
  assert.ok(Math.abs(table.offset + table.factor * 1.62) < 1e-12);
  assert.deepEqual([table.outcomes, table.guard], ["again", 0.003]);
  assert.equal(tableOf(SHEET, stand, "formation", "A1", true), null);
});

test("only the server judges a level placed on the plan, and nothing is said of what is not there", () => {
  const placed = setUpOn(SHEET, { id: "s", tool: "7", mark: "sill", backsight: 1.3, placed: true });
  assert.equal(tableOf(SHEET, placed, "formation", "A1").judged, false);
  assert.equal(tableOf(SHEET, placed, "base", "A1"), null);
  assert.equal(tableOf(SHEET, placed, "formation", "Z9"), null);
  assert.equal(tableOf(SHEET, undefined, "formation", "A1"), null);
  assert.equal(surfaceOf(SHEET, "formation").design[2], 9.5);
});

test("one walks on to what wants shooting, round the end, else simply on", () => {
  assert.equal(onward(SHEET, "A2", (name) => name === "A1"), "A1");
  assert.equal(onward(SHEET, "B1", () => false), "A1");
});

const SENT = {
  number: 7,
  stations: "n",
  surfaces: [{ key: "base", shot: "none", design: "d" }],
  stands: [{ id: "s", surfaces: { base: "t" } }],
  about: [{ tool: "7", marks: [{ name: "sill", surfaces: { base: "u" } }] }],
};
const LIST = { usual: [0, 1, null], odd: {}, guards: [0], again: [0] };
const PIECES = { n: ["A1"], none: [], d: [9], t: { ...LIST, lists: ["o", "p"] }, u: { ...LIST, lists: ["p", "o"] }, o: ["fresh"], p: ["again"] };

test("a sheet in pieces is put together, from what came and what was here", () => {
  const whole = joined({ ...SENT, pieces: PIECES });
  assert.deepEqual(whole.stations, ["A1"]);
  assert.deepEqual(whole.stands[0].surfaces.base.outcomes, [["fresh"], ["again"]]);
  assert.deepEqual(whole.about[0].marks[0].surfaces.base.outcomes, [["again"], ["fresh"]]);
  const after = { ...SENT, number: 8, surfaces: [{ key: "base", shot: "one", design: "d" }] };
  const later = joined({ ...after, pieces: { one: ["A1"] } }, whole);
  assert.deepEqual(later, joined({ ...after, pieces: { ...PIECES, one: ["A1"] } }));
  assert.ok(!("none" in later.pieces));
});

test("a sheet that lacks a piece is not put together", () => {
  assert.throws(() => joined({ ...SENT, pieces: { n: ["A1"] } }), /no piece none/);
});
