import { notifications } from "@mantine/notifications";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem } from "../api/client";
import type { JobLine, JobListPage, JobPlace, JobWish } from "../api/types";
import { tellWithUndo } from "./tellWithUndo";

export type Wanted = NonNullable<JobWish["wanted"]>;
export type Order = NonNullable<JobWish["order"]>;
type Wish = Required<JobWish>;

/** The list of jobs as it is wanted, and what can be done with rows of it. */
export interface Listing {
  page: JobListPage | undefined;
  failed: boolean;
  loaded: boolean;
  wish: Wish;
  /** Want another list; the first page of it, unless a page is told. */
  want: (change: Partial<JobWish>) => void;
  /** Put jobs elsewhere; a press on what is told then puts them back. */
  put: (rows: readonly JobLine[], place: JobPlace) => Promise<void>;
  rename: (row: JobLine, name: string) => Promise<void>;
  copy: (rows: readonly JobLine[]) => Promise<void>;
  label: (rows: readonly JobLine[], label: string, on: boolean) => Promise<void>;
  refresh: () => Promise<void>;
}

const FIRST: Wish = { text: "", wanted: "all", label: "", order: "changed", page: 0 };
const SAYS: Record<JobPlace, string> = { list: "in the list again", archive: "archived", bin: "in the bin" };
/** The list stays as it was left while one is in a job. */
let left = FIRST;

export function useJobList(): Listing {
  const [wish, setWish] = useState(left);
  const cache = useQueryClient();
  const { data, isError, isSuccess } = useQuery({
    queryKey: ["job-list", wish],
    queryFn: () => api.jobList(wish),
    refetchInterval: 4000,
    placeholderData: (known) => known,
  });
  const refresh = () => cache.invalidateQueries({ queryKey: ["job-list"] });
  const want = (change: Partial<JobWish>) =>
    setWish((now) => {
      left = { ...now, page: 0, ...change };
      return left;
    });
  return { page: data, failed: isError, loaded: isSuccess, wish, want, refresh, ...doingsOf(wish, refresh) };
}

const keys = (rows: readonly JobLine[]) => rows.map(({ id }) => id);
const named = (rows: readonly JobLine[]) => (rows.length === 1 ? rows[0]!.name : `${rows.length} jobs`);

/** What can be done with rows; what is refused is told, and the list is then as it is. */
function doingsOf(wish: Wish, refresh: () => Promise<void>) {
  const tried = async (doing: () => Promise<unknown>): Promise<boolean> => {
    try {
      await doing();
      return true;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      notifications.show({ message: error.line, color: "vermilion" });
      return false;
    } finally {
      await refresh();
    }
  };
  const put = async (rows: readonly JobLine[], place: JobPlace) => {
    const before: JobPlace = wish.wanted === "bin" || wish.wanted === "archive" ? wish.wanted : "list";
    if (!(await tried(() => api.putJobs(keys(rows), place)))) return;
    const says = `${named(rows)} ${rows.length === 1 ? "is" : "are"} ${SAYS[place]}`;
    tellWithUndo(says, () => tried(() => api.putJobs(keys(rows), before)));
  };
  return {
    put,
    rename: async (row: JobLine, name: string) => {
      await api.renameJob(row.id, name);
      await refresh();
    },
    copy: async (rows: readonly JobLine[]) => {
      await tried(async () => {
        for (const row of rows) await api.copyJob(row.id);
      });
    },
    label: async (rows: readonly JobLine[], label: string, on: boolean) => {
      await api.labelJobs(keys(rows), label, on);
      await refresh();
    },
  };
}
