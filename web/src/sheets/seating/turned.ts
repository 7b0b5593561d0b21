type Ring = readonly (readonly number[])[];

/** Rings turned counter-clockwise about the middle of their bounds, which stays where it is, as the core has it. */
export function turnedAbout(rings: readonly Ring[], degrees: number): Ring[] {
  const [x, y] = middleOf(rings);
  const [cos, sin] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const turned = rings.map((ring) =>
    ring.map(([px, py]) => [x + cos * (px! - x) - sin * (py! - y), y + sin * (px! - x) + cos * (py! - y)]),
  );
  const [nx, ny] = middleOf(turned);
  return turned.map((ring) => ring.map(([px, py]) => [px! + x - nx, py! + y - ny]));
}

function middleOf(rings: readonly Ring[]): [number, number] {
  const points = rings.flat();
  const along = (axis: number) =>
    points.reduce(
      ([low, high], one) => [Math.min(low!, one[axis]!), Math.max(high!, one[axis]!)],
      [Infinity, -Infinity],
    );
  return [0, 1].map((axis) => along(axis).reduce((a, b) => a + b) / 2) as [number, number];
}
