// What the sheet that travels with a job says: of any station of any surface, against what stands and what was set up
// since. Adds, subtracts and looks up; what is right or wrong was decided by the core.

// So many pieces at most are said to be here: the address has to stay short. Others are sent again.
export const MOST_SAID = 400;

// A sheet as it was sent, whole: what it names by tags put in their places, from what came and what the one before had.
export function joined(sent, before = null) {
  const pieces = {};
  const piece = (tag) => {
    pieces[tag] ??= sent.pieces[tag] ?? before?.pieces?.[tag];
    if (pieces[tag] === undefined) throw new Error(`no piece ${tag}`);
    return pieces[tag];
  };
  const tables = {};
  const table = (tag) => (tables[tag] ??= { ...piece(tag), outcomes: piece(tag).lists.map(piece) });
  const on = (named) => ({ ...named, surfaces: Object.fromEntries(Object.entries(named.surfaces).map(([key, tag]) => [key, table(tag)])) });
  return {
    ...sent,
    stations: piece(sent.stations),
    surfaces: sent.surfaces.map((surface) => ({ ...surface, shot: piece(surface.shot), design: piece(surface.design) })),
    stands: sent.stands.map(on),
    about: sent.about.map((tool) => ({ ...tool, marks: tool.marks.map(on) })),
    pieces,
  };
}

export const surfaceOf = (sheet, key) => sheet.surfaces.find((surface) => surface.key === key);

// A level set up on a mark without a signal: as high as the mark and what the rod read there, metres. Where it stands was
// `placed` on the plan, only the server judges by it. Null where the sheet does not know the tool or the mark.
export function setUpOn(sheet, { id, tool, mark, backsight, placed = false }) {
  const about = sheet.about.find((each) => each.tool === tool);
  const on = about?.marks.find((each) => each.name === mark);
  if (!on || backsight === null) return null;
  const { name, method, reach } = about;
  return { id, tool, name, method, reach, height: on.height + backsight, backsight, surfaces: on.surfaces, placed };
}

const of = (values, at) => values[values.length === 1 ? 0 : at];

// The table of the next reading at a station against `from`: `same` for the same ground shot again, `before` what was read
// there against it just now and is not recorded yet, metres. Null where the sheet does not say.
export function tableOf(sheet, from, key, station, same = false, before = null) {
  const at = sheet.stations.indexOf(station);
  const here = from?.surfaces[key];
  if (!here?.usual || at < 0) return null;
  const [fresh, again, recorded] = here.odd[at] ?? here.usual;
  const offset = here.offsets ? here.offsets[at] : from.height - surfaceOf(sheet, key).design[at];
  if (offset === null) return null;
  const table = { most: sheet.most, judged: !from.placed };
  const outcomes = here.outcomes ?? sheet.outcomes; // of a sheet kept here by an earlier version
  if (!same) return { ...table, offset, factor: -1, guard: of(here.guards, at), outcomes: outcomes[fresh] };
  if (before !== null) return { ...table, offset: offset - before / 2, factor: -0.5, guard: of(here.again, at), outcomes: outcomes[again] };
  if (!recorded) return null;
  const [offsetThen, factor, guard, list] = recorded;
  return { ...table, offset: here.offsets ? offsetThen : offsetThen - factor * from.backsight, factor, guard, outcomes: outcomes[list] };
}

// What should be read where a table applies, metres.
export const targetOf = (table) => table && -table.offset / table.factor;

// The next station in walking order that `wants` shooting, else simply the next.
export function onward(sheet, station, wants) {
  const at = sheet.stations.indexOf(station);
  const order = [...sheet.stations.slice(at + 1), ...sheet.stations.slice(0, at)];
  return order.find(wants) ?? order[0] ?? station;
}
