import type { ReactNode } from "react";
import type { Finding, Remedy, UserAction, Work } from "../../api/types";
import css from "./IntakeSheet.module.css";

const MENDS: Record<string, string> = {
  weld: "Weld",
  "remove-degenerate": "Remove them",
  "face-outward": "Face outward",
  "close-holes": "Close holes",
  "resolve-crossings": "Resolve",
  rebuild: "Rebuild as a solid",
};

/** The buttons beside a finding: what can be done about it, for all the bodies it concerns. */
export function remedyOf(finding: Finding, act: (action: UserAction) => void, work: (work: Work) => void): ReactNode {
  const buttons: [string, () => void][] = [];
  const { body_id: body, source_id: source, remedy, accepted } = finding;
  const bodies = finding.bodies ?? [];
  const many = bodies.length > 1 && !body;
  if (remedy in MENDS && bodies.length && !accepted) {
    buttons.push([MENDS[remedy]!, () => work({ do: "mend", bodies, remedy: remedy as Remedy, tolerance: "" })]);
    if (remedy !== "rebuild" && finding.severity === "stop") buttons.push(["Rebuild", () => work({ do: "mend", bodies, remedy: "rebuild", tolerance: "" })]);
  }
  if (finding.code === "crossings-unknown" && bodies.length) buttons.push(["Look for them", () => work({ do: "look", bodies, source: null })]);
  if (finding.code === "overlaps-unknown" && source) buttons.push(["Look for them", () => work({ do: "look", bodies: [], source })]);
  if (remedy === "separate" && body) buttons.push(["Separate", () => work({ do: "separate", body })]);
  if (remedy === "sew" && source) {
    buttons.push(["Sew", () => work({ do: "refine", source, fineness: null, chord: "", angle: "", sew: true })]);
  }
  if (remedy === "bring-home" && source) buttons.push(["Bring home", () => act({ do: "bring-home", source, home: true })]);
  if (finding.code === "stray" && !accepted) buttons.push([many ? `Drop all ${bodies.length}` : "Drop", () => act({ do: "delete", bodies })]);
  if (finding.code === "overlap" && body && bodies.length === 2) buttons.push(["Join", () => work({ do: "join", bodies })]);
  if (finding.acceptable) {
    const take = finding.code === "stray" ? "Keep" : "Accept as it is";
    const keys = finding.code === "overlap" && body ? [body] : bodies;
    buttons.push([accepted ? "Take back" : take, () => act({ do: "accept", body: null, bodies: keys, code: finding.code, accepted: !accepted })]);
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
