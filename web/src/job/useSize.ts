import { useCallback, useRef, useState } from "react";

/** The size of the part of the page that the bench has. */
export function useSize() {
  const [size, setSize] = useState<{ width: number; height: number } | null>(null);
  const watch = useRef<ResizeObserver | null>(null);
  const frame = useCallback((at: HTMLDivElement | null) => {
    watch.current?.disconnect();
    if (!at) return;
    watch.current = new ResizeObserver(
      ([entry]) => entry && setSize({ width: entry.contentRect.width, height: entry.contentRect.height }),
    );
    watch.current.observe(at);
  }, []);
  return [frame, size] as const;
}
