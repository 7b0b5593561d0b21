import { FileButton } from "@mantine/core";
import { useRef, useState, type DragEvent } from "react";
import { api, Problem } from "../../api/client";
import type { HeldNumber, VerifiedFile } from "../../api/types";
import { Press } from "../../blocks/Press";
import { sentence } from "../../blocks/words";
import css from "./ReleaseSheet.module.css";

/** A file from anywhere is dropped here and held against the release: the same bytes, or what is off and by how much. */
export function Verify({ job, release }: { job: string; release: number }) {
  const [over, setOver] = useState(false);
  const [busy, setBusy] = useState(false);
  const [told, tellOf] = useState<{ name: string; verified?: VerifiedFile; problem?: Problem } | null>(null);
  const again = useRef<() => void>(null);
  const hold = async (file: File | null | undefined) => {
    if (!file) return;
    again.current?.(); // the same file may be chosen again, changed meanwhile
    setBusy(true);
    try {
      tellOf({ name: file.name, verified: await api.verify(job, release, file) });
    } catch (error) {
      tellOf({ name: file.name, problem: error as Problem });
    }
    setBusy(false);
  };
  const drop = (event: DragEvent) => {
    event.preventDefault();
    event.stopPropagation();
    setOver(false);
    void hold(event.dataTransfer.files[0]);
  };
  const off = told?.verified?.checks.filter((check) => !check.holds) ?? [];
  const renamed = told?.verified?.checks.find((check) => check.what === "name" && check.asked !== check.found);
  return (
    <div
      className={over ? `${css.verify} ${css.over}` : css.verify}
      onDragOver={(event) => {
        event.preventDefault();
        event.stopPropagation();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <FileButton resetRef={again} onChange={(file) => void hold(file)}>
        {(props) => (
          <Press className="link" {...props}>
            {busy ? "Reading it" : "Hold a file against this release"}
          </Press>
        )}
      </FileButton>{" "}
      <span className="soft">or drop it here</span>
      {told && <Verdict told={told} renamed={renamed} off={off} />}
    </div>
  );
}

/** What was held against the release, and how it came out. */
function Verdict({
  told,
  renamed,
  off,
}: {
  told: { name: string; verified?: VerifiedFile; problem?: Problem };
  renamed: HeldNumber | undefined;
  off: HeldNumber[];
}) {
  return (
    <div role="status" className={css.verdict}>
      {told.problem && <p className="stop">{sentence(told.problem.line)}</p>}
      {renamed && (
        <p>
          {renamed.found} is {renamed.asked} of this release, under another name.
        </p>
      )}
      {told.verified?.holds && (
        <p className="settled">
          {told.name}: {told.verified.checks.length} numbers, all hold.
        </p>
      )}
      {off.length > 0 && (
        <>
          <p className="stop">
            {told.name}: {off.length} of {told.verified!.checks.length} numbers do not hold.
          </p>
          <ul>
            {off.slice(0, 8).map((one) => (
              <li key={one.what}>
                {one.what}: {short(one.asked)} released, {short(one.found)} found
              </li>
            ))}
            {off.length > 8 && <li>and {off.length - 8} more</li>}
          </ul>
        </>
      )}
    </div>
  );
}

const short = (text: string) => (/^[0-9a-f]{64}$/.test(text) ? `${text.slice(0, 10)}…` : text);
