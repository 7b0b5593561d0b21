import { useCallback, useEffect, useRef } from "react";
import { api } from "../../api/client";
import { tell } from "../../api/useJob";
import { drawStrokes } from "../../bench/strokes";

/** Draw in the bench where a body is another than it was; it goes when the sheet is left. */
export function useChanges(job: string) {
  const here = useRef(false);
  useEffect(() => {
    here.current = true;
    return () => {
      here.current = false;
      drawStrokes(null);
    };
  }, [job]);
  return useCallback(
    (body: string, name: string, since: "mended" | "revised") =>
      api.changed(job, body, since).then(({ strokes, earlier, rows, shift, says }) => {
        if (!here.current) return; // Who asked went on before the answer came.
        const was = { mesh: earlier, rows, shift, shown: false };
        drawStrokes({ body, title: `${name}, held against itself ${says}`, surface: strokes, earlier: was });
      }, tell),
    [job],
  );
}
