// The verdict on what is being typed, before it is sent: from a table the core made and the server sent with the page.
// Reads lengths as `groundwork.measures` does and compares; what it cannot read it leaves to the server. What the server
// answers is what stands.
"use strict";

const foretell = (() => {
  const FOOT = 0.3048;
  const INCH = 0.0254;
  const LONGEST_ROD = 6;
  const VULGAR = { "½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8" };

  const PREFIXES = { milli: "mm", centi: "cm", undefined: "m" };

  function plain(text) {
    return text
      .replace(/[½¼¾⅛⅜⅝⅞]/g, (mark) => ` ${VULGAR[mark]}`)
      .trim()
      .toLowerCase()
      .replace(/\u2044/g, "/")
      .replace(/[−–]/g, "-")
      .replace(/(?<=\d),(?=\d)/g, ".")
      .replace(/(?<![a-z])(milli|centi)?(?:metres?|meters?)(?![a-z])/g, (word, prefix) => PREFIXES[prefix])
      .replace(/''|″|”|“|(?<![a-z])(?:inches|inch|in)(?![a-z])\.?/g, '"')
      .replace(/′|’|‘|ʹ|(?<![a-z])(?:feet|foot|ft)(?![a-z])\.?/g, "'");
  }

  function inches(text) {
    const found = /^(?:(\d*\.\d+|\d+\.?)(?![\d/]))?[\s-]*(?:(\d+)\s*\/\s*(\d+))?\s*"?$/.exec(text);
    if (!found || !(found[1] || found[2])) return null;
    const whole = Number(found[1] ?? 0);
    if (!found[2]) return whole;
    const [top, bottom] = [Number(found[2]), Number(found[3])];
    if (![2, 4, 8, 16, 32, 64].includes(bottom) || top >= bottom || found[1]?.includes(".")) return null;
    return whole + top / bottom;
  }

  function feetAndInches(feet, rest) {
    if (!rest.trim()) return Number(feet) * FOOT;
    const value = feet.includes(".") ? null : inches(rest.trim());
    return value === null || value >= 12 ? null : Number(feet) * FOOT + value * INCH;
  }

  // Metres of a rod reading as typed, or along a tape so long, or null.
  function metres(text, unit, longest = LONGEST_ROD) {
    if (/^[1-9],\d{3}\s*m(?:m|illi)/.test(text.trim())) return null;
    const typed = plain(text);
    const metric = /^([+-]?)(\d+[.,]\d*|[.,]\d+|\d+)\s*(mm|cm|m)?$/.exec(typed);
    let read = null;
    if (metric) {
      const number = Number(metric[2].replace(",", "."));
      let bare = { m: "m", mm: "mm", ft: "ft", "ft-in": "in" }[unit];
      if (bare === "m" || bare === "mm") {
        if (number >= (unit === "mm" ? 10 : Math.max(10, longest))) bare = "mm";
        else if (!/^\d+$/.test(metric[2])) bare = "m";
      }
      const scale = { m: 1, cm: 0.01, mm: 0.001, ft: FOOT, in: INCH }[metric[3] ?? bare];
      read = (metric[1] === "-" ? -number : number) * scale;
    } else {
      const feet = /^(\d*\.\d+|\d+\.?)\s*'[\s-]*(.*)$/.exec(typed);
      const pair = /^(\d+)[\s-]+(\d+(?:[\s-]+\d+\/\d+)?)$/.exec(typed);
      if (feet) read = feetAndInches(feet[1], feet[2]);
      else if (pair) read = feetAndInches(pair[1], pair[2]);
      else {
        const value = inches(typed);
        read = value === null ? null : value * INCH;
      }
    }
    return read === null || !(read >= 0 && read <= longest) ? null : read;
  }

  const steps = (length, step) => Math.floor(Math.abs(length) / step + 0.5 + 1e-9);

  // A length as the crew reads it, as `format_amount` puts it.
  function amount(length, unit) {
    if (unit === "m" || unit === "mm") return `${steps(length, 0.001)} mm`;
    if (unit === "ft") return `${(steps(length, 0.01 * FOOT) / 100).toFixed(2)}′`;
    return feetInches(length, 3);
  }

  // Feet, inches and sixteenths, without the sign; inches alone below so many feet.
  function feetInches(length, feetFrom) {
    let sixteenths = steps(length, INCH / 16);
    let feet = Math.floor(sixteenths / 192);
    if (feet < feetFrom) feet = 0;
    sixteenths -= feet * 192;
    const [whole, part] = [Math.floor(sixteenths / 16), sixteenths % 16];
    const by = part % 8 === 0 ? 8 : part % 4 === 0 ? 4 : part % 2 === 0 ? 2 : 1;
    const fraction = part ? `${part / by}/${16 / by}` : "";
    const shown = `${[whole || feet || !part ? whole : "", fraction].filter((piece) => piece !== "").join(" ")}″`;
    return feet ? `${feet}′ ${shown}` : shown;
  }

  // What the rod should read, as `format_reading` puts it.
  function reading(length, unit) {
    if (unit === "ft-in") return `${length < 0 && steps(length, INCH / 16) ? "−" : ""}${feetInches(length, 1)}`;
    const [step, digits, scale, after] = { mm: [0.001, 0, 1, ""], m: [0.001, 3, 1000, ""], ft: [0.01 * FOOT, 2, 100, "′"] }[unit];
    const shown = steps(length, step) / scale;
    return `${length < 0 && shown ? "−" : ""}${shown.toFixed(digits)}${after}`;
  }

  // What a reading comes to: its mark and words, or null where the server has to say.
  function verdict(table, text, unit) {
    const read = metres(text, unit, table?.longest);
    if (!table || read === null) return null;
    const deviation = table.offset + table.factor * read;
    if (Math.abs(deviation) >= table.most) return null;
    const outcome = table.outcomes.findLast((each) => deviation > each.at + each.guards * table.guard);
    if (!outcome) return null;
    const length = outcome.base === null ? "" : amount(outcome.base + deviation, unit);
    return { standing: outcome.standing, css: outcome.css, mark: outcome.mark, amount: length, says: outcome.says.replace("{amount}", length) };
  }

  return { metres, amount, reading, verdict };
})();

document.addEventListener("input", (event) => {
  if (event.target.id === "entry" || event.target.name === "same_ground") showForetold();
});
document.addEventListener("click", (event) => event.target.closest(".keys, .device") && setTimeout(showForetold));

function showForetold() {
  const [place, data] = [document.getElementById("foretold"), document.getElementById("foretold-data")];
  const entry = document.getElementById("entry");
  if (!place || !data || !entry) return;
  const { unit, tables } = JSON.parse(data.textContent);
  const same = entry.form.elements.same_ground?.checked;
  const found = foretell.verdict(tables[same ? 1 : 0], entry.value, unit);
  place.textContent = found ? found.says : "";
  place.className = found ? `foretold v-${found.css}` : "foretold";
}
