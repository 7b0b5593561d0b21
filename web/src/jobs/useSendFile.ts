import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useLocation } from "wouter";
import { api, LEFT, Problem, sendFile, type Goal } from "../api/client";
import { tellNotTaken } from "../api/useJob";
import { warmUp } from "../bench/warm";
import { bytes } from "../blocks/numbers";
import { advance, end, lineUp } from "./uploads";

/** A file that was not taken, and why. */
export interface NotTaken {
  name: string;
  problem: Problem;
}

/** What a file takes the place of: a source, in the revision that the page will stand on then. */
export interface Replaced {
  source: string;
  on: () => Promise<number>;
}

/** How files are sent: in place of a source, or, where no job is open, each into one of its own. */
interface SendOptions {
  replaces?: Replaced;
  each?: boolean;
}

const LIMITS = { queryKey: ["limits"], queryFn: api.limits, staleTime: Infinity };

/**
 * Send files. Without a job to go to, the first that is taken opens one and the others join it, or each opens
 * one of its own. A file that is not taken is told and does not hold up the others.
 */
export function useSendFile(into: string | null) {
  const [busy, setBusy] = useState(false);
  const [problems, setProblems] = useState<NotTaken[]>([]);
  const [, go] = useLocation();
  const cache = useQueryClient();
  const limits = useQuery(LIMITS);

  const send = async (files: readonly File[], options: SendOptions = {}) => {
    if (into === null) warmUp();
    const started = window.location.pathname;
    setBusy(true);
    const { opened, refused } = await sendAll(files, into, options, limits.data?.upload_bytes);
    setBusy(false);
    setProblems(refused);
    await cache.invalidateQueries({ queryKey: ["job-list"] });
    for (const job of opened) await cache.invalidateQueries({ queryKey: ["job", job] });
    // Whoever went on to something else meanwhile is left there.
    if (into !== null || opened.length !== 1 || window.location.pathname !== started) return;
    go(`/jobs/${opened[0]}/intake`);
    for (const { name, problem } of refused) tellNotTaken(name, problem);
  };
  /** Send the models of a folder; what can be a model is asked first, where the page does not know it yet. */
  const models = async (files: readonly File[]): Promise<File[]> => {
    const endings = await cache.fetchQuery(LIMITS).then(
      (known) => known.endings,
      () => [""], // then the server says of each file what it thinks of it
    );
    const models = files.filter((file) => endings.some((end) => file.name.toLowerCase().endsWith(end)));
    if (!models.length) setProblems([{ name: "the folder", problem: noModels(endings) }]);
    return models;
  };
  return { busy, problems, send, models, endings: limits.data?.endings ?? [] };
}

function noModels(endings: readonly string[]): Problem {
  return new Problem(0, "folder-without-models", "no model lies in it", "", `pick one with ${endings.join(", ")}`);
}

/** Send files one after another; return the jobs that took them, and the files that were not taken. */
async function sendAll(
  files: readonly File[],
  into: string | null,
  { replaces, each }: SendOptions,
  limit: number | undefined,
): Promise<{ opened: string[]; refused: NotTaken[] }> {
  const stops = files.map(() => new AbortController());
  const line = lineUp(
    files.map((file) => file.name),
    (place) => {
      stops[place]!.abort();
      end(line[place]!);
    },
  );
  const opened: string[] = [];
  const refused: NotTaken[] = [];
  for (const [place, file] of files.entries()) {
    const { signal } = stops[place]!;
    if (signal.aborted) continue;
    const job = into ?? (each ? null : (opened[0] ?? null));
    try {
      refuseTooLarge(file, limit);
      const goal: Goal =
        job === null ? { job } : { job, replaces: replaces && { source: replaces.source, on: await replaces.on() } };
      advance(line[place]!, 0);
      const { id } = await sendFile(file, goal, (share) => advance(line[place]!, share), signal);
      if (!opened.includes(id)) opened.push(id);
    } catch (error) {
      const problem = error instanceof Problem ? error : notSent();
      if (problem.code !== LEFT) refused.push({ name: file.name, problem });
    }
    end(line[place]!);
  }
  return { opened, refused };
}

function notSent(): Problem {
  return new Problem(
    0,
    "unknown",
    "it did not reach the server whole",
    "",
    "see that it can still be read where it lies, then drop it again",
  );
}

/** The server refuses too, but only after the file has travelled. */
function refuseTooLarge(file: File, limit: number | undefined) {
  if (limit != null && file.size > limit) {
    throw new Problem(
      413,
      "file-too-large",
      `the file has ${bytes(file.size)}; the limit is ${bytes(limit)}`,
      "",
      "export it coarser, or raise AIMTRUE_UPLOAD_MB and start again",
    );
  }
}
