import { Columns } from "../../blocks/Columns";
import type { SeamsShown, DivisionPreview, Axis } from "../../api/types";
import { tell } from "../../api/useJob";
import { Segments } from "../../blocks/Choice";
import { Press } from "../../blocks/Press";
import { sheetCss } from "../../blocks/Sheet";
import { Fold } from "../../blocks/Fold";
import { count, rounded } from "../../blocks/numbers";
import css from "./Division.module.css";
import { SEAMS } from "./PlaneTable";
import type { Dividing } from "./useDivision";

const WIDE = 352;
const HIGH = 64;
const AXES = [
  ["x", "X"],
  ["y", "Y"],
  ["z", "Z"],
] as const;

/** So many seams are listed, the best first; the curve marks all. */
const LISTED = 5;

/** The area of the section along an axis; its seams are taken by a click or by keyboard. */
export function SectionCurve({ dividing }: { dividing: Dividing }) {
  const { seams, axis, lookAlong, plan, prospect } = dividing;
  const here = seams?.axis === axis ? seams : undefined;
  const most = Math.max(1e-9, ...(here?.areas ?? [1]));
  const x = (at: number) => (here ? ((at - here.low) / (here.high - here.low)) * WIDE : 0);
  const y = (area: number) => 16 + HIGH - (area / most) * HIGH;
  const line = here
    ? `M0 ${16 + HIGH}L${here.at.map((at, i) => `${x(at).toFixed(1)} ${y(here.areas[i]!).toFixed(1)}`).join("L")}L${WIDE} ${16 + HIGH}Z`
    : "";
  const take = (at: number) => void plan({ do: "add", text: `${axis}=${Number(at.toFixed(3))}` }).catch(tell);
  return (
    <Fold
      title={`Section along ${axis.toUpperCase()}`}
      name="division-section"
      open
      says={here ? `${here.seams.length} ${here.seams.length === 1 ? "seam" : "seams"}` : ""}
    >
      {here && <AreaCurve axis={axis} line={line} here={here} x={x} take={take} prospect={prospect} />}
      {!!here?.seams.length && <SeamTable here={here} take={take} />}
      <div className={css.line}>
        <Segments
          label="Axis of the section"
          value={axis}
          options={AXES}
          choose={(one) => lookAlong(one as Axis)}
          width={120}
        />
        <span className="soft">
          {here && !here.seams.length ? "nothing here would hide a cut" : "a mark is a place where a cut hides"}
        </span>
      </div>
    </Fold>
  );
}

interface AreaCurveProps {
  axis: Axis;
  line: string;
  here: SeamsShown;
  x: (at: number) => number;
  take: (at: number) => void;
  prospect: DivisionPreview | undefined;
}

/** The curve of the section's area, with its seams. */
function AreaCurve({ axis, line, here, x, take, prospect }: AreaCurveProps) {
  return (
    <svg
      className={css.curve}
      width={WIDE}
      height={HIGH + 38}
      role="group"
      aria-label={`Area of the section along ${axis.toUpperCase()}`}
    >
      <path d={line} fill="var(--section)" stroke="var(--ink)" strokeWidth="1.2" strokeLinejoin="round" />
      {[here.low, (here.low + here.high) / 2, here.high].map((at, i) => (
        <text key={i} x={Math.min(WIDE - 26, Math.max(26, x(at)))} y={HIGH + 32}>
          {rounded(at, 1).replace("-", "−")}
        </text>
      ))}
      {here.seams.map((seam) => (
        <g
          key={seam.at_mm}
          className={css.seam}
          role="button"
          tabIndex={0}
          aria-label={`Cut at ${rounded(seam.at_mm, 2)}, ${SEAMS[seam.kind]}, ${count(Math.round(seam.area_mm2))} mm²`}
          onClick={() => take(seam.at_mm)}
          onKeyDown={(event) => event.key === "Enter" && take(seam.at_mm)}
        >
          <title>{`${rounded(seam.at_mm, 2)} mm, ${SEAMS[seam.kind]}: ${count(Math.round(seam.area_mm2))} mm², stands on ${Math.round(100 * seam.stands)} % of its hull`}</title>
          <path
            d={`M${x(seam.at_mm)} 16V${HIGH + 16}`}
            stroke="var(--settled)"
            strokeWidth="1.4"
            strokeDasharray="3 2"
          />
          <path d={`M${x(seam.at_mm) - 4} 8h8l-4 6z`} fill="var(--settled)" stroke="var(--settled)" />
          <rect x={x(seam.at_mm) - 12} y={0} width={24} height={HIGH + 18} fill="transparent" />
        </g>
      ))}
      {(prospect?.planes ?? [])
        .filter((plane) => plane.axis === axis)
        .map((plane) => (
          <g key={plane.letter}>
            <path d={`M${x(plane.at_mm)} 14V${HIGH + 20}`} stroke="var(--stop)" strokeWidth="2" />
            <text className={css.name} x={x(plane.at_mm) + 9} y={11}>
              {plane.letter}
            </text>
          </g>
        ))}
    </svg>
  );
}

/** The seams as a table. */
function SeamTable({ here, take }: { here: SeamsShown; take: (at: number) => void }) {
  return (
    <table className={`${sheetCss.table} ${css.planes}`} aria-label="Seams">
      <Columns
        of={[
          "Seam",
          { numbers: "at, mm" },
          { numbers: "section" },
          { numbers: "outlines" },
          { numbers: "stands on" },
          { unseen: "what can be done" },
        ]}
      />
      <tbody>
        {here.seams.slice(0, LISTED).map((seam) => (
          <tr key={seam.at_mm}>
            <td>{SEAMS[seam.kind]}</td>
            <td className={`${sheetCss.r} number`}>{rounded(seam.at_mm, 2)}</td>
            <td className={`${sheetCss.r} number`}>{count(Math.round(seam.area_mm2))} mm²</td>
            <td className={`${sheetCss.r} number`}>{seam.outlines}</td>
            <td className={`${sheetCss.r} number`}>{Math.round(100 * seam.stands)} %</td>
            <td className={sheetCss.r}>
              <Press
                className="link"
                aria-label={`Cut at the seam at ${rounded(seam.at_mm, 2)}`}
                onClick={() => take(seam.at_mm)}
              >
                cut
              </Press>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
