// Reads an amount as a person types it: "6 oz", "1 qt", "0.54 lb", "half a bucket", "2 1/2", "3 L + 200 mL", "15 s". Pure.

/** @type {Record<string, string>} */
const WRITTEN = { "¼": " 1/4", "½": " 1/2", "¾": " 3/4", "⅓": " 1/3", "⅔": " 2/3", "⅛": " 1/8" };
/** @type {Array<[RegExp, string]>} */
const SAID = [
  [/\b(a |one )?half( an?)?\b/g, " 1/2 "], [/\btwo thirds( of an?)?\b/g, " 2/3 "], [/\b(an? |one )?third( of an?)?\b/g, " 1/3 "],
  [/\bthree quarters( of an?)?\b/g, " 3/4 "], [/\b(an? |one )?quarter( of an?)?\b/g, " 1/4 "], [/\b(an?|one)\b/g, " 1 "], [/\band\b|,(?=\s)/g, " + "],
];
const TERM = /^\s*\+?\s*(?:(\d+)\/(\d+)|(\d+(?:\.\d+)?)(?:\s+(\d+)\/(\d+))?)\s*([^\d+\s][^\d+]*)?/;

const unitOf = (word, units) => {
  const said = word.trim().replace(/\.$/, "");
  const names = [said, said.replace(/\s+/g, ""), said.replace(/s$/, ""), said.replace(/\s+|s$/g, "")];
  const name = names.find((one) => Object.hasOwn(units, one));
  return name === undefined ? null : units[name];
};

/**
 * The amounts that are typed, one for each term; null where anything is not understood.
 * @param {string} text
 * @param {Record<string, number>} units what each comes to
 * @param {number} plain what a figure without a unit counts in
 * @returns {number[] | null}
 */
export const amountsOf = (text, units, plain) => {
  let rest = text.toLowerCase().replace(/[¼½¾⅓⅔⅛]/g, (one) => WRITTEN[one]).replace(/(\d),(\d)/g, "$1.$2");
  for (const [said, as] of SAID) rest = rest.replace(said, as);
  const found = [];
  while (rest.trim()) {
    const term = TERM.exec(rest);
    if (!term) return null;
    const [all, top, below, whole, over, under, word] = term;
    const number = (whole ? Number(whole) : 0) + (over ? Number(over) / Number(under) : 0) + (top ? Number(top) / Number(below) : 0);
    const unit = word === undefined ? plain : unitOf(word, units);
    if (unit === null || !Number.isFinite(number)) return null;
    found.push(number * unit);
    rest = rest.slice(all.length);
  }
  return found.length ? found : null;
};

/** @type {(text: string, units: Record<string, number>, plain: number) => number | null} */
export const amountOf = (text, units, plain) => {
  const found = amountsOf(text, units, plain);
  return found === null ? null : found.reduce((all, one) => all + one, 0);
};
