// What is typed is read as the trade writes it; the expected lengths are by hand: an inch is 25.4 mm.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { runInNewContext } from "node:vm";

const source = readFileSync(new URL("../../src/nivelum/static/nivelum/foretell.js", import.meta.url), "utf-8");
const foretell = runInNewContext(`${source}; foretell`, { document: { addEventListener() {} } });

for (const [typed, unit, metres] of [
  ["1406", "mm", 1.406], ["1,406", "m", 1.406], ["1.406", "mm", 1.406], ["4.61", "ft", 4.61 * 0.3048],
  ["4' 7 3/8\"", "ft-in", 55.375 * 0.0254], ["4′ 7⅜″", "mm", 55.375 * 0.0254], ["55 3/8", "ft-in", 55.375 * 0.0254],
  ["4 7 3/8", "ft-in", 55.375 * 0.0254], ["140.6 cm", "ft", 1.406], ["0", "mm", 0],
]) test(`${typed} is ${metres} m`, () => assert.ok(Math.abs(foretell.metres(typed, unit) - metres) < 1e-9));

for (const typed of ["", "high", "-1", "7001", "4' 12\"", "4' 7 3/7\"", "4.5' 3\"", "1,406 mm", "--3"])
  test(`“${typed}” is nothing on a rod`, () => assert.equal(foretell.metres(typed, "mm"), null));

test("a verdict is the last outcome whose edge is passed by more than the guard", () => {
  const outcomes = [
    { at: -Infinity, guards: 0, standing: "over-dug", css: "low", mark: "m-low", says: "over-dug {amount}", base: 0 },
    { at: -0.01, guards: 1, standing: "good", css: "good", mark: "m-good", says: "good", base: null },
    { at: 0.01, guards: 1, standing: "dig", css: "dig", mark: "m-dig", says: "dig {amount}", base: 0 },
  ];
  const table = { offset: 1.5, factor: -1, most: 1, guard: 0.002, outcomes };
  const says = (read) => foretell.verdict(table, String(read), "mm")?.says;
  assert.equal(says(1500), "good");
  assert.equal(says(1487), "dig 13 mm"); // 13 mm high: more than 10 and a guard
  assert.equal(says(1489), "good"); // 11 mm high is not sure to be out
  assert.equal(says(1509), "over-dug 9 mm");
  assert.equal(foretell.verdict(table, "1487", "mm").standing, "dig");
  assert.equal(says(499), undefined); // a metre off: the server has to say
});
