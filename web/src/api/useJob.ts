import { notifications } from "@mantine/notifications";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, type RefObject } from "react";
import { sentence } from "../blocks/words";
import { api, Problem } from "./client";
import { tellChangedElsewhere } from "./elsewhere";
import type { JobView, UserAction } from "./types";

export interface JobHandle {
  view: JobView;
  /**
   * Do one action; throws the server's Problem when it is refused, so that a field can show it. An action that
   * carries the values of several fields is made of the job as it is when its turn comes, so that a field never
   * sends back what its neighbour held before it was typed into.
   */
  act: (action: UserAction | ((view: JobView) => UserAction)) => Promise<JobView>;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
  /** The revision that this page stands on, once its own changes that are on their way are there. */
  settled: () => Promise<number>;
  /** Run any change that answers with the job, with the same care for a stale page. */
  change: (call: (on: number, view: JobView) => Promise<JobView>) => Promise<JobView>;
}

interface Progress {
  task: number;
  share: number;
  says: string;
}

const key = (id: string) => ["job", id];

/** A job, kept fresh by the server's events; changes go through here. */
export function useJob(id: string): { handle: JobHandle | null; problem: Problem | null } {
  const cache = useQueryClient();
  const query = useQuery({ queryKey: key(id), queryFn: () => api.job(id), retry: 1, refetchOnWindowFocus: false });
  // How many own changes are on their way: the server's word of them is no news.
  const busy = useRef(0);
  useFreshness(id, busy);

  // Changes run one after the other: each must name the revision the one before it made.
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const change = useCallback(
    (call: (on: number, view: JobView) => Promise<JobView>) => {
      const next = line.current.then(async () => {
        const seen = cache.getQueryData<JobView>(key(id));
        if (!seen) throw new Problem(0, "unloaded", "the job is not loaded yet");
        busy.current += 1;
        try {
          const after = await call(seen.number, seen);
          cache.setQueryData(key(id), after);
          return after;
        } catch (error) {
          if (error instanceof Problem && error.status === 409) {
            tellChangedElsewhere();
            await cache.invalidateQueries({ queryKey: key(id) });
            tellStale(error);
          }
          throw error;
        } finally {
          busy.current -= 1;
        }
      });
      line.current = next.catch(() => undefined);
      return next;
    },
    [cache, id],
  );

  const settled = useCallback(async () => {
    await line.current;
    return cache.getQueryData<JobView>(key(id))?.number ?? 0;
  }, [cache, id]);

  const problem = query.error instanceof Problem ? query.error : null;
  if (!query.data) return { handle: null, problem };
  const quietly = async (call: (on: number) => Promise<JobView>) => {
    await change(call).catch((error: unknown) => tell(error));
  };
  return {
    problem: null,
    handle: {
      view: query.data,
      change,
      settled,
      act: (action) => change((on, view) => api.act(id, on, typeof action === "function" ? action(view) : action)),
      undo: () => quietly((on) => api.undo(id, on)),
      redo: () => quietly((on) => api.redo(id, on)),
    },
  };
}

/** Listen for changes, and say so when one was made elsewhere on a page in use. */
function useFreshness(id: string, busy: RefObject<number>) {
  const cache = useQueryClient();
  useEffect(() => {
    let events: EventSource | null = null;
    const refresh = async (): Promise<void> => {
      const now = await api.job(id).catch(() => null);
      if (busy.current > 0) {
        // An own change is on its way; look again once it is there.
        window.setTimeout(() => void refresh(), 300);
        return;
      }
      const known = cache.getQueryData<JobView>(key(id));
      if (!now || (known && now.number < known.number)) return;
      if (known && now.number > known.number) tellChangedElsewhere();
      cache.setQueryData(key(id), now);
      // A background task that this page waits for is no news either.
      const awaited = known?.tasks.some((one) => one.state === "waiting" || one.state === "doing");
      if (known && now.number > known.number && known.job.bodies.length > 0 && !awaited) tellElsewhere(now);
    };
    // How far a task is comes by itself; the job is not asked for again.
    const progressed = ({ task, share, says }: Progress) =>
      cache.setQueryData<JobView>(
        key(id),
        (known) =>
          known && {
            ...known,
            tasks: known.tasks.map((one) =>
              one.id === task && one.state !== "done" ? { ...one, state: "doing", share, says } : one,
            ),
          },
      );
    // A hidden page does not listen: browsers allow few connections to one server. Shown again, it refreshes.
    const watch = () => {
      if (document.hidden) {
        events?.close();
        events = null;
      } else if (!events) {
        events = new EventSource(`/api/jobs/${id}/events`);
        events.addEventListener("changed", () => void refresh());
        events.addEventListener("open", () => void refresh());
        events.addEventListener("progress", (event) =>
          progressed(JSON.parse((event as MessageEvent<string>).data) as Progress),
        );
      }
    };
    watch();
    document.addEventListener("visibilitychange", watch);
    return () => {
      document.removeEventListener("visibilitychange", watch);
      events?.close();
    };
  }, [id, cache, busy]);
}

function tellElsewhere(now: JobView) {
  notifications.show({
    color: "ink",
    title: "Changed elsewhere",
    message: now.undo ? `Now in force: ${now.undo}. This page shows it.` : "This page shows the job as it is now.",
  });
}

function tellStale(error: Problem) {
  notifications.show({ color: "vermilion", title: "Not done", message: sentence(error.line) });
}

/** Say that a file was not taken, where its place on the page is gone. */
export function tellNotTaken(name: string, problem: Problem) {
  notifications.show({
    color: "vermilion",
    title: `${name} was not taken`,
    message: sentence(problem.line),
    autoClose: 12000,
  });
}

/** Show a problem that no field can show. */
export function tell(error: unknown) {
  if (error instanceof Problem && error.status === 409) return;
  const text = sentence(error instanceof Problem ? error.line : "something went wrong; reload the page");
  notifications.show({ color: "vermilion", title: "Not done", message: text, autoClose: 8000 });
}
