import { Dialog } from "../blocks/Dialog";
import { Button, Checkbox } from "@mantine/core";
import { useState } from "react";
import { changeSettings } from "../house/settings";
import css from "./Jobs.module.css";

interface Props {
  files: File[];
  send: (each: boolean) => void;
  close: () => void;
}

/** Several files at once: one job that holds them all, or one for each; asked once, and remembered if that is wanted. */
export function ManyFiles({ files, send, close }: Props) {
  const [remember, setRemember] = useState(false);
  const choose = (each: boolean) => {
    if (remember) changeSettings({ manyFiles: each ? "each" : "one" });
    close();
    send(each);
  };
  return (
    <Dialog close={close} title={`${files.length} files: one job, or one each?`}>
      <p>
        Parts that go together belong in one job: they are held against each other and placed together. Files that have
        nothing to do with each other go better into jobs of their own.
      </p>
      <span className={css.picks}>
        <Button data-autofocus onClick={() => choose(false)}>
          One job for all
        </Button>
        <Button variant="default" onClick={() => choose(true)}>
          A job for each
        </Button>
      </span>
      <Checkbox
        mt={12}
        label="Always do so (can be changed in the settings)"
        checked={remember}
        onChange={(event) => setRemember(event.target.checked)}
      />
    </Dialog>
  );
}
