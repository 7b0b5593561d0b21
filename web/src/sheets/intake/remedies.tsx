import type { ReactNode } from "react";
import type { Finding, JobView, Remedy, UserAction, Work } from "../../api/types";
import css from "./IntakeSheet.module.css";

const MENDS: Record<string, string> = {
  weld: "Weld",
  "remove-degenerate": "Remove them",
  "face-outward": "Face outward",
  "close-holes": "Close holes",
  "resolve-crossings": "Resolve",
  rebuild: "Rebuild as a solid",
};

/** The buttons beside a finding: what can be done about it. */
export function remedyOf(finding: Finding, view: JobView, act: (action: UserAction) => void, work: (work: Work) => void): ReactNode {
  const buttons: [string, () => void][] = [];
  const { body_id: body, source_id: source, remedy } = finding;
  if (remedy in MENDS && body && !finding.accepted) {
    buttons.push([MENDS[remedy]!, () => work({ do: "mend", bodies: [body], remedy: remedy as Remedy, tolerance: "" })]);
    if (remedy !== "rebuild" && finding.severity === "stop") buttons.push(["Rebuild", () => work({ do: "mend", bodies: [body], remedy: "rebuild", tolerance: "" })]);
  }
  if (finding.code === "crossings-unknown" && body) buttons.push(["Look for them", () => work({ do: "look", bodies: [body], source: null })]);
  if (finding.code === "overlaps-unknown" && source) buttons.push(["Look for them", () => work({ do: "look", bodies: [], source })]);
  if (remedy === "separate" && body) buttons.push(["Separate", () => work({ do: "separate", body })]);
  if (remedy === "sew" && source) {
    buttons.push(["Sew", () => work({ do: "refine", source, fineness: null, chord: "", angle: "", sew: true })]);
  }
  if (remedy === "bring-home" && source) buttons.push(["Bring home", () => act({ do: "bring-home", source, home: true })]);
  if (finding.code === "stray" && body) {
    const all = view.survey.findings.filter((one) => one.code === "stray" && !one.accepted).map((one) => one.body_id!);
    if (!finding.accepted) buttons.push(["Drop", () => act({ do: "delete", bodies: [body] })]);
    buttons.push([finding.accepted ? "Take back" : "Keep", () => act({ do: "accept", body, code: "stray", accepted: !finding.accepted })]);
    if (all.length > 1 && all[0] === body) buttons.push([`Drop all ${all.length}`, () => act({ do: "delete", bodies: all })]);
  }
  if (finding.code === "overlap" && body) {
    const other = finding.other_id;
    if (other) buttons.push(["Join", () => work({ do: "join", bodies: [body, other] })]);
  }
  if (finding.acceptable && finding.code !== "stray") {
    buttons.push([finding.accepted ? "Take back" : "Accept as it is", () => act({ do: "accept", body: body!, code: finding.code, accepted: !finding.accepted })]);
  }
  if (!buttons.length) return undefined;
  return (
    <span className={css.remedies}>
      {buttons.map(([says, go]) => (
        <button key={says} type="button" className="link" onClick={go}>
          {says}
        </button>
      ))}
    </span>
  );
}
