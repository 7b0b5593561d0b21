import { FileButton } from "@mantine/core";
import { useRef } from "react";
import { Press } from "../blocks/Press";
import css from "./Jobs.module.css";
import { type Replaced, useSendFile } from "./useSendFile";

interface Props {
  into: string | null;
  label: string;
  /** A new revision takes the place of this source. */
  replaces?: Replaced;
  /** Ask for a whole folder. */
  folder?: boolean;
  className?: string;
  /** Takes the files where something is to be asked before they are sent. */
  take?: (files: File[]) => void;
}

/** A button that asks for files. */
export function FilePicker({ into, label, replaces, folder, className, take }: Props) {
  const { busy, problems, send, models, endings } = useSendFile(into);
  const again = useRef<() => void>(null);
  const chosen = async (picked: File[] | File | null) => {
    const files = Array.isArray(picked) ? picked : picked ? [picked] : [];
    again.current?.(); // the same file may be asked for once more
    const sent = folder ? await models(files) : files;
    if (!sent.length) return;
    if (take) take(sent);
    else await send(sent, { replaces });
  };
  const input = { "aria-label": label, hidden: true, ...(folder ? { webkitdirectory: "" } : {}) };
  return (
    <>
      <FileButton
        resetRef={again}
        accept={folder ? undefined : endings.join(",")}
        multiple={!replaces}
        inputProps={input}
        onChange={(picked) => void chosen(picked)}
      >
        {(open) => (
          <Press className={className ?? css.pick} {...open}>
            {busy ? "sending …" : label}
          </Press>
        )}
      </FileButton>
      {problems.map((problem) => (
        <span key={problem.name} role="alert">
          {problem.name}: {problem.problem.line}
        </span>
      ))}
    </>
  );
}
