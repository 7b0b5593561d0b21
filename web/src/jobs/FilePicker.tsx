import { useRef } from "react";
import css from "./Jobs.module.css";
import { useSendFile } from "./useSendFile";

/** A button that asks for a file. */
export function FilePicker({ into, label }: { into: string | null; label: string }) {
  const { sending, send } = useSendFile(into);
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <button type="button" className={css.pick} onClick={() => input.current?.click()}>
        {sending && !sending.problem ? `sending ${Math.round(sending.share * 100)} %` : label}
      </button>
      <input
        ref={input}
        type="file"
        accept=".stl,.3mf"
        hidden
        onChange={(event) => {
          void send([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      {sending?.problem && <span role="alert">{sending.problem.line}</span>}
    </>
  );
}
