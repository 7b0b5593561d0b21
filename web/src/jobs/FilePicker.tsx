import { useRef } from "react";
import css from "./Jobs.module.css";
import { useSendFile } from "./useSendFile";

interface Props {
  into: string | null;
  label: string;
  /** A new revision takes the place of this source. */
  replaces?: { source: string; on: number };
  /** Ask for a whole folder. */
  folder?: boolean;
  className?: string;
}

/** A button that asks for files. */
export function FilePicker({ into, label, replaces, folder, className }: Props) {
  const { sending, problems, send, endings } = useSendFile(into);
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <button type="button" className={className ?? css.pick} onClick={() => input.current?.click()}>
        {sending ? `sending ${sending.name} ${Math.round(sending.share * 100)} %` : label}
      </button>
      <input
        ref={input}
        type="file"
        aria-label={label}
        accept={folder ? undefined : endings.join(",")}
        multiple={!replaces}
        {...(folder ? { webkitdirectory: "" } : {})}
        hidden
        onChange={(event) => {
          const files = [...(event.target.files ?? [])].filter((file) => !folder || endings.some((end) => file.name.toLowerCase().endsWith(end)));
          event.target.value = "";
          void send(files, replaces);
        }}
      />
      {problems.map((one) => (
        <span key={one.name} role="alert">
          {one.name}: {one.problem.line}
        </span>
      ))}
    </>
  );
}
