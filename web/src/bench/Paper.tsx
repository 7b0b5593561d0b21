import { Canvas, type RootState } from "@react-three/fiber";
import { useState, type ReactNode } from "react";
import { Press } from "../blocks/Press";
import css from "./Bench.module.css";

let able: boolean | null = null;

/** Whether this browser can draw at all. */
function canDraw(): boolean {
  able ??= document.createElement("canvas").getContext("webgl2") !== null;
  return able;
}

/** What is drawn on; where a browser cannot draw, or has lost what it drew with, that is said, and the sheets go on. */
export function Paper({ children }: { children: ReactNode }) {
  const [lost, lose] = useState(false);
  const [tries, retry] = useState(0);
  if (!canDraw()) return <NoDrawing says="This browser has no WebGL 2, which the drawing needs." />;
  if (lost) {
    const again = () => {
      retry(tries + 1);
      lose(false);
    };
    return (
      <NoDrawing says="The browser took back what it draws with, as it does when memory is short." again={again} />
    );
  }
  const watch = ({ gl }: RootState) =>
    gl.domElement.addEventListener("webglcontextlost", (event) => {
      event.preventDefault();
      // Taken away while it is still in the page: not because the page let go of it.
      if (gl.domElement.isConnected) lose(true);
    });
  return (
    <Canvas
      key={tries}
      orthographic
      frameloop="demand"
      flat
      dpr={[1, 2]}
      gl={{ antialias: true, alpha: true }}
      onCreated={watch}
    >
      {children}
    </Canvas>
  );
}

function NoDrawing({ says, again }: { says: string; again?: () => void }) {
  return (
    <div className={css.nothing} role="status">
      <p>
        {says} All that is on the sheets can be done without it: places are chosen from lists, sizes are in the title
        block.
      </p>
      {again && (
        <Press look="box" onClick={again}>
          Draw again
        </Press>
      )}
    </div>
  );
}
