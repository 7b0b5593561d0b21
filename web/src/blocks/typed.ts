import { Problem } from "../api/client";

const GROUPED = /(?<![\d.,/'’])\d{1,3}(?:(?:['’]\d{3})+|(?: \d{3})+)(?![\d'’]|\s*\/)/g;
const AMBIGUOUS = /(?<!\d)[1-9]\d{0,2},\d{3}(?!\d)/;
const PLAIN = /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?$/i;

/**
 * A number as it was typed, by the grammar of the core (`core/model/numbers.py`; `typed.cases.json` holds both to each
 * other). A unit that the field itself names, such as mm or °, may stand behind it.
 */
export function typedNumber(text: string, unit = ""): number {
  const bare = unit && text.trim().endsWith(unit) ? text.trim().slice(0, -unit.length) : text;
  const spaced = bare.replace(/[\u00a0\u2009\u202f]/g, " ").trim();
  const grouped = spaced.search(GROUPED) >= 0;
  const plain = spaced.replace(GROUPED, (digits) => digits.replace(/\D/g, "")).replace("−", "-");
  if (
    plain.includes(",") &&
    (plain.split(",").length > 2 || plain.includes(".") || (!grouped && AMBIGUOUS.test(plain)))
  ) {
    throw new Problem(
      422,
      "number",
      `the comma in “${text.trim()}” can mean two things`,
      "",
      "write it with a decimal point and without separators",
    );
  }
  const pointed = plain.replace(",", ".");
  const value = PLAIN.test(pointed) ? Number(pointed) : NaN;
  if (!Number.isFinite(value))
    throw new Problem(
      422,
      "number",
      text.trim() ? `“${text.trim()}” is no number` : "nothing was typed",
      "",
      "type one, such as 12.5",
    );
  return value;
}
