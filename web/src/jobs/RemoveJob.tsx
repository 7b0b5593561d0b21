import { Dialog } from "../blocks/Dialog";
import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation } from "@tanstack/react-query";
import { api, type Problem } from "../api/client";
import type { JobLine } from "../api/types";
import css from "./Jobs.module.css";

/** What goes when a job of the bin is removed for good, and whether it is meant. */
export function RemoveJob({ row, close, refresh }: { row: JobLine; close: () => void; refresh: () => Promise<void> }) {
  const remove = useMutation({
    mutationFn: () => api.removeJob(row.id),
    onSuccess: refresh,
    onSettled: close,
    onError: (error) => notifications.show({ message: (error as Problem).line, color: "vermilion" }),
  });
  const files = row.files > 1 ? `its ${row.files} files` : "its file";
  const releases = row.releases === 1 ? ", its release" : row.releases ? `, its ${row.releases} releases` : "";
  return (
    <Dialog close={close} title={`Remove ${row.name} for good?`}>
      <p>
        The job goes with {files}
        {releases} and all that was decided, and cannot be had back; keep{" "}
        <a className="link" href={`/api/jobs/${row.id}/bundle`} download>
          the whole job as a bundle
        </a>{" "}
        if you may want it.
      </p>
      <span className={css.picks}>
        <Button color="vermilion" onClick={() => remove.mutate()} disabled={remove.isPending}>
          Remove
        </Button>
        <Button variant="default" onClick={close}>
          Keep
        </Button>
      </span>
    </Dialog>
  );
}
