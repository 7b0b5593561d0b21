import { MeshBVH, type SerializedBVH } from "three-mesh-bvh";
import { drawable, type BenchMesh, type MeshArrays } from "./meshData";

/** A mesh to be parsed in the worker. */
export interface ToParse {
  id: number;
  data: ArrayBuffer;
}

/** What the worker made of a mesh, with its search tree; or what is wrong with it. */
export type Parsed = { id: number } & (
  { arrays: MeshArrays; tree: { roots: ArrayBuffer[]; order: Uint32Array<ArrayBuffer> } } | { problem: string }
);

let worker: Worker | null = null;
let last = 0;
const waiting = new Map<number, (parsed: Parsed) => void>();

function atWork(): Worker {
  if (worker) return worker;
  worker = new Worker(new URL("./parsing.worker.ts", import.meta.url), { type: "module" });
  worker.onmessage = ({ data }: MessageEvent<Parsed>) => {
    waiting.get(data.id)?.(data);
    waiting.delete(data.id);
  };
  // One that cannot run answers nothing: whoever waits is told, and the next mesh gets another.
  worker.onerror = () => {
    worker = null;
    for (const [id, tell] of waiting) tell({ id, problem: "the mesh for drawing cannot be read" });
    waiting.clear();
  };
  return worker;
}

/** Read a mesh for drawing in a worker, with its search tree. */
export async function parsedAside(data: ArrayBuffer): Promise<BenchMesh> {
  const id = ++last;
  const parsed = await new Promise<Parsed>((tell) => {
    waiting.set(id, tell);
    atWork().postMessage({ id, data } satisfies ToParse, [data]);
  });
  if ("problem" in parsed) throw new Error(parsed.problem);
  const mesh = drawable(parsed.arrays);
  const { roots, order } = parsed.tree;
  const tree = { version: 1, roots, index: null, indirectBuffer: order } as unknown as SerializedBVH;
  mesh.surface.boundsTree = MeshBVH.deserialize(tree, mesh.surface, { setIndex: false });
  return mesh;
}
