import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { LineBasicMaterial, type Matrix4 } from "three";
import { ink } from "../theme/inks";
import { linesOf, type DrawnStrokes } from "./strokes";

const INTO = "into each other";
/** How strongly lines are seen that lie behind something, as those in a bore. */
const HIDDEN = 0.3;
const STILL = { matrixAutoUpdate: false, frustumCulled: false } as const;

/** Hatch in ink, what is in each other in vermilion, contours in verdigris. */
const colourOf = (says: string, kind: string, onDark: boolean): string =>
  ink(says === INTO ? "--stop" : onDark ? "--paper" : kind === "contour" ? "--settled-bright" : "--ink");

/** Lines on the surface of a body, where the bench shows it. */
export function StrokeLines({ strokes, matrix, onDark }: { strokes: DrawnStrokes; matrix: Matrix4; onDark: boolean }) {
  const { invalidate } = useThree();
  const lines = useMemo(
    () =>
      strokes.surface.bands.map((band) => ({
        geometry: linesOf(band),
        material: new LineBasicMaterial({ color: colourOf(band.says, band.kind, onDark) }),
        hidden: new LineBasicMaterial({
          color: colourOf(band.says, band.kind, onDark),
          depthTest: false,
          transparent: true,
          opacity: HIDDEN,
        }),
      })),
    [strokes, onDark],
  );
  useEffect(() => {
    invalidate();
    return () =>
      lines.forEach(({ geometry, material, hidden }) => {
        geometry.dispose();
        material.dispose();
        hidden.dispose();
      });
  }, [lines, invalidate]);
  return lines.map(({ geometry, material, hidden }, i) => (
    <group key={i}>
      <lineSegments geometry={geometry} material={material} matrix={matrix} {...STILL} />
      <lineSegments geometry={geometry} material={hidden} matrix={matrix} {...STILL} />
    </group>
  ));
}
