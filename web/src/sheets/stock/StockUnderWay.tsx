import type { JobView } from "../../api/types";
import { sentence } from "../../blocks/words";
import { Working } from "../../blocks/Working";
import css from "./Stock.module.css";

/** Parts that are being made just now; what failed is told until something newer was made. */
export function StockUnderWay({ view }: { view: JobView }) {
  const making = view.tasks.filter((task) => task.does === "make-stock");
  const newest = making[0];
  return (
    <>
      {making
        .filter((task) => task.state === "waiting" || task.state === "doing")
        .map((task) => (
          <Working key={task.id} task={task} />
        ))}
      {newest?.state === "failed" && newest.error && (
        <p className={`${css.options} stop`} role="alert">
          {sentence([newest.error.says, newest.error.remedy].filter(Boolean).join("; "))}
        </p>
      )}
    </>
  );
}
