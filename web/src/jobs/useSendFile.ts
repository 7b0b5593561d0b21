import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useLocation } from "wouter";
import { api, Problem, sendFile, type Goal } from "../api/client";
import { tellNotTaken } from "../api/useJob";
import { warmUp } from "../bench/warm";
import { bytes } from "../blocks/numbers";

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

const LIMITS = { queryKey: ["limits"], queryFn: api.limits, staleTime: Infinity };

/** Files on their way, and those that were not taken. */
export interface Sending {
  name: string;
  share: number;
  left: number;
  busy: boolean;
  problems: NotTaken[];
}

/**
 * Send files. Without a job to go to, the first that is taken opens one and the others join it.
 * A file that is not taken is told and does not hold up the others.
 */
export function useSendFile(into: string | null) {
  const [sending, setSending] = useState<Sending | null>(null);
  const [, go] = useLocation();
  const cache = useQueryClient();
  const limits = useQuery(LIMITS);

  const send = async (files: readonly File[], replaces?: Replaced) => {
    if (into === null) warmUp();
    let job = into;
    const problems: NotTaken[] = [];
    const tell = (name: string, share: number, left: number, busy: boolean) =>
      setSending({ name, share, left, busy, problems: [...problems] });
    for (const [i, file] of files.entries()) {
      tell(file.name, 0, files.length - i, true);
      try {
        refuseTooLarge(file, limits.data?.upload_bytes);
        const goal: Goal =
          job === null ? { job } : { job, replaces: replaces && { source: replaces.source, on: await replaces.on() } };
        const { id } = await sendFile(file, goal, (share) => tell(file.name, share, files.length - i, true));
        job = id;
      } catch (error) {
        const problem = error instanceof Problem ? error : new Problem(0, "unknown", "the file could not be sent");
        problems.push({ name: file.name, problem });
      }
    }
    tell(files.at(-1)?.name ?? "", 1, 0, false);
    await cache.invalidateQueries({ queryKey: ["jobs"] });
    if (!job) return;
    await cache.invalidateQueries({ queryKey: ["job", job] });
    if (into === null) {
      go(`/jobs/${job}/intake`);
      for (const { name, problem } of problems) tellNotTaken(name, problem);
    }
  };
  /** Send the models of a folder; what can be a model is asked first, where the page does not know it yet. */
  const sendFolder = async (files: readonly File[]) => {
    const endings = await cache.fetchQuery(LIMITS).then(
      (known) => known.endings,
      () => [""], // then the server says of each file what it thinks of it
    );
    const models = files.filter((file) => endings.some((end) => file.name.toLowerCase().endsWith(end)));
    if (models.length) return send(models);
    const problem = new Problem(
      0,
      "folder-without-models",
      "no model lies in it",
      "",
      `pick one with ${endings.join(", ")}`,
    );
    setSending({ name: "", share: 1, left: 0, busy: false, problems: [{ name: "the folder", problem }] });
  };
  return {
    sending: sending?.busy ? sending : null,
    problems: sending?.problems ?? [],
    send,
    sendFolder,
    endings: limits.data?.endings ?? [],
  };
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
