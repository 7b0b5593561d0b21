import { Unseen } from "../../blocks/Unseen";
import { useState } from "react";
import type { ReleasedFile } from "../../api/types";
import { Press } from "../../blocks/Press";
import { mm } from "../../blocks/numbers";
import css from "./ReleaseSheet.module.css";

/** What was held against what, check by check, file by file. */
export function Proofs({ files }: { files: ReleasedFile[] }) {
  const [first] = files;
  return (
    <>
      {files.map((file) => (
        <Checks key={file.name} file={file} named={files.length > 1} />
      ))}
      {[...new Set(files.flatMap((file) => file.proof.accepted ?? []))].map((says) => (
        <p className={css.chain} key={says}>
          Accepted on purpose: {says}.
        </p>
      ))}
      {first!.proof.original && <p className={css.chain}>Held against {first!.proof.original}.</p>}
      {files.length === 1 && <p className={css.chain}>{first!.chain}</p>}
    </>
  );
}

function worst(value: number): string {
  return value < 1e-3 ? `${(value * 1e6).toFixed(value < 1e-5 ? 1 : 0)} nm` : `${mm(value)} mm`;
}

/** Checks of so many bodies that they are folded until they are asked for. */
const SHOWN = 40;
const LENGTHS = [
  "size",
  "extent",
  "vertices",
  "reading",
  "bore",
  "clearance",
  "surface",
  "covered",
  "sheet",
  "stands",
  "centred",
  "resolution",
];

function Checks({ file, named }: { file: ReleasedFile; named: boolean }) {
  const [all, setAll] = useState(false);
  const { checks } = file.proof;
  const rows = all || checks.length <= SHOWN ? checks : checks.slice(0, SHOWN);
  return (
    <table className={css.checks}>
      <thead>
        <tr>
          <th>
            {named ? `${file.name}, ` : ""}read back by {file.proof.reader}
          </th>
          <th>asked</th>
          <th>found</th>
          <th>off</th>
          <th>
            <Unseen>whether it holds</Unseen>
          </th>
        </tr>
      </thead>
      <tbody>
        {rows.map((check, i) => (
          <tr key={i}>
            <td>{check.says}</td>
            <td>{short(check.asked)}</td>
            <td>{short(check.found)}</td>
            <td>
              {check.off === 0 ? "0" : LENGTHS.includes(check.code) ? worst(check.off) : check.off.toPrecision(1)}
            </td>
            <td className={check.holds ? "settled" : "stop"}>
              {check.holds ? "holds" : "fails"}
              <Unseen>, within {check.limit.toPrecision(2)}</Unseen>
            </td>
          </tr>
        ))}
        {rows.length < checks.length && (
          <tr>
            <td colSpan={5}>
              <Press className="link" onClick={() => setAll(true)}>
                and {checks.length - rows.length} more checks that hold
              </Press>
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}

function short(text: string): string {
  return text.replace(/ mm$/, "").replace(/(\d+)\.\d+ mm³$/, "$1 mm³");
}
