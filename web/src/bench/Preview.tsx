import { useMemo, useRef, useState } from "react";
import { Matrix4, type BufferAttribute } from "three";
import css from "./Bench.module.css";
import { useBenchMeshes } from "./mesh";
import { ink } from "../theme/inks";
import type { BenchMesh } from "./meshData";
import { Paper } from "./Paper";
import { LOOKS, Scene, type Handle } from "./Scene";
import type { Box, View } from "./view";

const MARGINS = { top: 70, right: 70, bottom: 70, left: 70 };
const LOOK = { from: LOOKS.O!.from, at: 0 };

/**
 * A first look at a large file while it is still being read: its shape, in numbers of the file, Z up.
 * Without a name it stands ready, since setting up the drawing takes a moment itself.
 */
export function Preview({ name }: { name: string | null }) {
  const { meshes } = useBenchMeshes(name ? [`bench/${name}`] : []);
  const mesh = name ? meshes.get(`bench/${name}`) : undefined;
  const handle = useRef<Handle | null>(null);
  const [view, setView] = useState<View | null>(null);
  const box = useMemo(() => (mesh ? boxOf(mesh) : null), [mesh]);
  const bodies = useMemo(
    () => (mesh ? [{ id: "preview", mesh, matrix: new Matrix4(), colour: ink("--body") }] : []),
    [mesh],
  );
  return (
    <div className={css.bench} data-testid="preview" data-drawn={mesh && view ? name! : undefined}>
      <Paper>
        <Scene
          bodies={bodies}
          facets={false}
          focus={null}
          box={box}
          machine={null}
          around={null}
          strokes={null}
          cutAt={null}
          overhang={null}
          plate={false}
          margins={MARGINS}
          dragged={null}
          look={LOOK}
          handle={handle}
          onView={setView}
        />
      </Paper>
      <div className={css.says}>{mesh && <strong>a first look; sizes follow</strong>}</div>
    </div>
  );
}

function boxOf(mesh: BenchMesh): Box {
  const positions = (mesh.surface.attributes.position as BufferAttribute).array;
  const box: Box = { low: [Infinity, Infinity, Infinity], high: [-Infinity, -Infinity, -Infinity] };
  for (let i = 0; i < positions.length; i += 3)
    for (const k of [0, 1, 2] as const) {
      box.low[k] = Math.min(box.low[k], positions[i + k]!);
      box.high[k] = Math.max(box.high[k], positions[i + k]!);
    }
  return box;
}
