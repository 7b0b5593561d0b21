import type { QueryClient } from "@tanstack/react-query";

/** What of a mesh for drawing is in the graphics card. */
interface Disposable {
  surface: { dispose: () => void };
  ink: { dispose: () => void };
}

/** Let go of meshes that nobody has looked at for a while, in the graphics card too. */
export function disposeRemoved(client: QueryClient): void {
  client.getQueryCache().subscribe((event) => {
    if (event.type !== "removed" || event.query.queryKey[0] !== "bench") return;
    const mesh = event.query.state.data as Disposable | undefined;
    mesh?.surface.dispose();
    mesh?.ink.dispose();
  });
}
