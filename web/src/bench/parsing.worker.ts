import { MeshBVH } from "three-mesh-bvh";
import { readBench, surfaceOf } from "./meshData";
import type { Parsed, ToParse } from "./parsing";

/** Read meshes and build their search trees, aside from the page, which goes on being drawn meanwhile. */
self.onmessage = ({ data: { id, data } }: MessageEvent<ToParse>) => {
  try {
    const arrays = readBench(data);
    // Indirect: the order of faces must stay, face numbers are those of the server.
    const tree = MeshBVH.serialize(new MeshBVH(surfaceOf(arrays), { indirect: true }), { cloneBuffers: false });
    const roots = tree.roots as ArrayBuffer[];
    const order = tree.indirectBuffer as Uint32Array<ArrayBuffer>;
    const parsed: Parsed = { id, arrays, tree: { roots, order } };
    self.postMessage(parsed, { transfer: [data, arrays.inked.buffer, order.buffer, ...roots] });
  } catch (error) {
    const parsed: Parsed = { id, problem: error instanceof Error ? error.message : String(error) };
    self.postMessage(parsed);
  }
};
