import { notifications } from "@mantine/notifications";
import { Press } from "../blocks/Press";

const SHOWN_MS = 12_000;

/** Tell what was done, with a press that takes it back. */
export function tellWithUndo(says: string, undo: () => Promise<unknown>) {
  const id = notifications.show({
    autoClose: SHOWN_MS,
    color: "ink",
    message: (
      <>
        {says}.{" "}
        <Press
          className="link"
          onClick={() => {
            notifications.hide(id);
            return undo();
          }}
        >
          Undo
        </Press>
      </>
    ),
  });
}
