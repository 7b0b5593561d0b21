import { describe, expect, it } from "vitest";
import { bytes, factor, fileNumber, inches, inchFraction, mm, plainSize, rounded, signed } from "./numbers";

describe("numbers as a sheet prints them", () => {
  it("prints millimetres with two decimals, small ones with four digits", () => {
    expect([171.5, 0, 0.0123456, 1000, -6].map(mm)).toEqual(["171.50", "0.00", "0.01235", "1000.00", "−6.00"]);
  });
  it("rounds halves away from zero, by the decimal that is meant", () => {
    expect([28.575, 1.005, 2.675, -28.575, 28.574999999999996, 0].map(mm)).toEqual([
      "28.58",
      "1.01",
      "2.68",
      "−28.58",
      "28.58",
      "0.00",
    ]);
    expect([rounded(1.0005, 3), rounded(1e-9, 2), rounded(123456.785, 2)]).toEqual(["1.001", "0.00", "123456.79"]);
  });
  it("prints inches as fractions to a 64th, and tells where that is not the length", () => {
    expect([8.375, 0.5, 3, 0.015625, -1.75, 0, 8.346, 2.9999, 0.001].map(inchFraction)).toEqual([
      "8 3/8",
      "1/2",
      "3",
      "1/64",
      "−1 3/4",
      "0",
      "≈ 8 11/32",
      "3",
      "≈ 0",
    ]);
  });
  it("prints inches with three decimals", () => {
    expect([6.75, 0.0123456].map(inches)).toEqual(["6.750", "0.01235"]);
  });
  it("prints file numbers without idle zeros", () => {
    expect([5.5, 0.038, 158.81076049804688].map(fileNumber)).toEqual(["5.5", "0.038", "158.8108"]);
  });
  it("prints factors to a hundredth of a millimetre in a metre", () => {
    expect([1, 0.98208, 1.2276312].map(factor)).toEqual(["1", "0.98208", "1.22763"]);
  });
  it("prints differences with their sign, and none for what rounds to nothing", () => {
    expect([0.2, -3.368, 0.001, -0.001].map(signed)).toEqual(["+0.20", "−3.37", "0.00", "0.00"]);
  });
  it("prints lengths in the unit that reads best", () => {
    expect([5e-3, 12, 12_000, 2e6].map(plainSize)).toEqual(["5 µm", "12.00 mm", "12 m", "2 km"]);
    expect([1500, 304_484, 50_000_084].map(bytes)).toEqual(["1.5 kB", "304 kB", "50.0 MB"]);
  });
});
