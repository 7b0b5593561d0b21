import { useEffect, useRef } from "react";
import type { JobView, SurfaceStrokes } from "../api/types";
import { drawStrokes, useStrokes, type DrawnStrokes } from "../bench/strokes";

/** The lines on a surface, until a size in the job is another: they tell lengths of what it was when they were drawn. */
export function useFreshStrokes(view: JobView): DrawnStrokes | null {
  const strokes = useStrokes();
  const sizes = strokes ? JSON.stringify(view.survey.bodies.map(({ id, chain }) => [id, chain?.released_mm])) : "";
  const drawn = useRef<{ surface: SurfaceStrokes; sizes: string } | null>(null);
  useEffect(() => {
    if (strokes && drawn.current?.surface === strokes.surface) {
      if (drawn.current.sizes !== sizes) drawStrokes(null);
    } else drawn.current = strokes && { surface: strokes.surface, sizes };
  }, [strokes, sizes]);
  return strokes;
}
