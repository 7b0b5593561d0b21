import { FileButton } from "@mantine/core";
import { useRef } from "react";
import { Press } from "../blocks/Press";
import css from "./Jobs.module.css";
import { useSendFile, type Replaced } from "./useSendFile";

interface Props {
  into: string | null;
  label: string;
  /** A new revision takes the place of this source. */
  replaces?: Replaced;
  /** Ask for a whole folder. */
  folder?: boolean;
  className?: string;
}

/** A button that asks for files. */
export function FilePicker({ into, label, replaces, folder, className }: Props) {
  const { sending, problems, send, sendFolder, endings } = useSendFile(into);
  const again = useRef<() => void>(null);
  const take = (chosen: File[] | File | null) => {
    const files = Array.isArray(chosen) ? chosen : chosen ? [chosen] : [];
    again.current?.(); // the same file may be asked for once more
    void (folder ? sendFolder(files) : send(files, replaces));
  };
  const input = { "aria-label": label, hidden: true, ...(folder ? { webkitdirectory: "" } : {}) };
  return (
    <>
      <FileButton
        resetRef={again}
        accept={folder ? undefined : endings.join(",")}
        multiple={!replaces}
        inputProps={input}
        onChange={take}
      >
        {(open) => (
          <Press className={className ?? css.pick} {...open}>
            {sending ? `sending ${sending.name} ${Math.round(sending.share * 100)} %` : label}
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
