import { useConnectionLost } from "../api/connection";
import css from "./Guard.module.css";

/** Said on every page while the server does not answer. */
export function ConnectionBar() {
  const lost = useConnectionLost();
  return (
    <div role="status">
      {lost && (
        <p className={css.lost}>
          The server does not answer. It is asked again every 2 seconds; what you type stays where it is, and your job
          is kept as it was after your last step.
        </p>
      )}
    </div>
  );
}
