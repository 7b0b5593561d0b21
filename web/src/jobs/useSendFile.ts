import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useLocation } from "wouter";
import { api, Problem, sendFile } from "../api/client";
import { bytes } from "../blocks/numbers";

/** A file on its way, or what was wrong with it. */
export interface Sending {
  name: string;
  share: number;
  problem: Problem | null;
}

/** Send files, each to a job of its own (or one into a job that lacks it), and go to the last job opened. */
export function useSendFile(into: string | null) {
  const [sending, setSending] = useState<Sending | null>(null);
  const [, go] = useLocation();
  const cache = useQueryClient();
  const limits = useQuery({ queryKey: ["limits"], queryFn: api.limits, staleTime: Infinity });

  const send = async (files: readonly File[]) => {
    let opened: string | null = null;
    for (const file of files) {
      setSending({ name: file.name, share: 0, problem: null });
      try {
        refuseTooLarge(file, limits.data?.upload_bytes);
        const { id } = await sendFile(file, into, (share) => setSending({ name: file.name, share, problem: null }));
        opened = id;
      } catch (error) {
        const problem = error instanceof Problem ? error : new Problem(0, "unknown", "the file could not be sent");
        setSending({ name: file.name, share: 0, problem });
        await cache.invalidateQueries({ queryKey: ["jobs"] });
        return;
      }
    }
    setSending(null);
    await cache.invalidateQueries({ queryKey: opened ? ["job", opened] : ["jobs"] });
    if (opened) go(`/jobs/${opened}/intake`);
  };
  return { sending, send };
}

/** The server refuses too, but only after the file has travelled. */
function refuseTooLarge(file: File, limit: number | undefined) {
  if (limit != null && file.size > limit) {
    throw new Problem(413, "file-too-large", `the file has ${bytes(file.size)}; the limit is ${bytes(limit)}`, "", "export it coarser, or raise AIMTRUE_UPLOAD_MB and start again");
  }
}
