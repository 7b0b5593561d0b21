import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useState, type ReactNode } from "react";
import { KEY_WANTED } from "../api/client";

/** Loaded where a server wants its key. */
const AskKey = lazy(() => import("./AskKey").then(({ AskKey }) => ({ default: AskKey })));

/** Shows the pages, or asks for the key of this server when it wants one. */
export function KeyGate({ children }: { children: ReactNode }) {
  const [wanted, setWanted] = useState(false);
  const cache = useQueryClient();
  useEffect(() => {
    const ask = () => setWanted(true);
    window.addEventListener(KEY_WANTED, ask);
    return () => window.removeEventListener(KEY_WANTED, ask);
  }, []);
  if (!wanted) return children;
  return (
    <Suspense fallback={null}>
      <AskKey
        onGiven={() => {
          void cache.resetQueries();
          setWanted(false);
        }}
      />
    </Suspense>
  );
}
