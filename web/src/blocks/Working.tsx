import { Progress } from "@mantine/core";
import type { TaskView } from "../api/types";

/** A background task on its way. */
export function Working({ task }: { task: TaskView }) {
  return (
    <div style={{ padding: "6px 16px 12px" }} role="status">
      <Progress value={task.share * 100} color="ink" size="sm" radius={0} aria-label="progress" />
      <span className="soft">{task.state === "waiting" ? "waiting for a free worker" : task.says}</span>
    </div>
  );
}
