/** How numbers are written on a sheet. Nothing is decided here, only printed. */

const trimmed = (text: string) => (text.includes(".") ? text.replace(/0+$/, "").replace(/\.$/, "") : text);

/**
 * A number with so many decimals, halves away from zero as a draughtsman rounds: the decimal that a float stands for
 * is rounded, not the float, so that 28.575 becomes 28.58, also where the seven digits of a float32 left 28.574999 of it.
 */
export function rounded(value: number, digits: number): string {
  const whole = Math.abs(value);
  if (whole < 1e-6 || whole >= 1e12) return value.toFixed(digits);
  const size = Number(whole.toFixed(Math.max(digits, 6 - Math.floor(Math.log10(whole)))));
  return (value < 0 ? "-" : "") + Number(`${Math.round(Number(`${size}e${digits}`))}e-${digits}`).toFixed(digits);
}

/** Millimetres: two decimals, or as many as are settled; more for what is small. */
export function mm(value: number): string {
  if (value !== 0 && Math.abs(value) < 1) return trimmed(value.toPrecision(4)).replace("-", "−");
  return rounded(value, places).replace("-", "−");
}

let places = 2;

/** Settle how many decimals millimetres have. */
export function settleDecimals(digits: number) {
  places = digits;
}

/** The finest division of an inch that a rule has. */
const FINEST = 64;

/** Inches in fractions, to the nearest 64th; ≈ tells that this is not the length to its third decimal. */
export function inchFraction(value: number): string {
  const parts = Math.round(Math.abs(value) * FINEST);
  const sign = (Math.abs(Math.abs(value) - parts / FINEST) < 0.0005 ? "" : "≈ ") + (value < 0 ? "−" : "");
  const whole = Math.floor(parts / FINEST);
  let [over, under] = [parts % FINEST, FINEST];
  while (over && over % 2 === 0) [over, under] = [over / 2, under / 2];
  const fraction = over ? `${over}/${under}` : "";
  return sign + (whole || !over ? [whole, fraction].filter(Boolean).join(" ") || "0" : fraction);
}

let fractions = false;

/** Settle whether inches are written in fractions. */
export function settleFractions(on: boolean) {
  fractions = on;
}

/** Inches: three decimals, more for what is small; or fractions, where these are settled. */
export function inches(value: number): string {
  if (fractions) return inchFraction(value);
  if (value !== 0 && Math.abs(value) < 0.1) return trimmed(value.toPrecision(4));
  return rounded(value, 3);
}

/** A number of the file: as many digits as a float32 carries, no idle zeros. */
export function fileNumber(value: number): string {
  return trimmed(value.toPrecision(7));
}

/** A factor: enough digits for a hundredth of a millimetre in a metre. */
export function factor(value: number): string {
  return trimmed(value.toPrecision(6));
}

/** A difference, always with its sign. */
export function signed(value: number): string {
  if (Math.abs(value) < 0.005) return "0.00";
  return (value > 0 ? "+" : "−") + rounded(Math.abs(value), 2);
}

/** A count with thin spaces between thousands. */
export function count(value: number): string {
  return value.toLocaleString("en").replaceAll(",", "\u2009");
}

/** An area in mm², in cm² where it is large. */
export function area(mm2: number): string {
  return mm2 < 10_000 ? `${count(Math.round(mm2))} mm²` : `${count(Math.round(mm2 / 100))} cm²`;
}

/** Bytes as kB or MB. */
export function bytes(value: number): string {
  return value < 1e6 ? `${(value / 1e3).toFixed(value < 1e4 ? 1 : 0)} kB` : `${(value / 1e6).toFixed(1)} MB`;
}

/** A volume in cm³, in mm³ when it is small. */
export function volume(mm3: number): string {
  const cm3 = Math.abs(mm3) / 1000;
  return cm3 >= 0.1 ? `${cm3.toPrecision(4)} cm³` : `${Number(Math.abs(mm3).toPrecision(4))} mm³`;
}

/** A length in the unit that reads best, for candidates from micrometres to kilometres. */
export function plainSize(valueMm: number): string {
  if (valueMm >= 1e6) return `${trimmed((valueMm / 1e6).toPrecision(3))} km`;
  if (valueMm >= 10_000) return `${trimmed((valueMm / 1e3).toPrecision(4))} m`;
  if (valueMm >= 0.1) return `${mm(valueMm)} mm`;
  return `${trimmed((valueMm * 1e3).toPrecision(3))} µm`;
}

export const UNIT_WORDS: Record<string, string> = {
  um: "micrometre",
  mm: "millimetre",
  cm: "centimetre",
  m: "metre",
  in: "inch",
  ft: "foot",
};

/** A small length in micrometres, a larger one in mm. */
export function microns(mm: number): string {
  return mm >= 0.1 ? `${mm.toFixed(2)} mm` : `${(mm * 1000).toFixed(mm < 0.01 ? 1 : 0)} µm`;
}
