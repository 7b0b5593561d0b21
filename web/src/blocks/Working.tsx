import { Progress } from "@mantine/core";
import type { ErrandView } from "../api/types";

/** A background task on its way. */
export function Working({ errand }: { errand: ErrandView }) {
  return (
    <div style={{ padding: "6px 16px 12px" }} role="status">
      <Progress value={errand.share * 100} color="ink" size="sm" radius={0} aria-label="progress" />
      <span className="soft">{errand.state === "waiting" ? "waiting for a free worker" : errand.says}</span>
    </div>
  );
}
