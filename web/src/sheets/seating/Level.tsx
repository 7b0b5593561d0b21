import { Link } from "wouter";
import { tell, type JobHandle } from "../../api/useJob";
import type { FirstLayer, SeatState } from "../../api/types";
import { Press } from "../../blocks/Press";
import { count, rounded } from "../../blocks/numbers";
import { Head, sheetCss } from "../../blocks/Sheet";
import { Footprints } from "./Footprints";
import { seatOf, useFirstLayer } from "./useSeating";

const TIMES = 50;
const WIDTH = 368;

/** Whether a seat is level: the wedge that a tilt opens, its heights exaggerated and said so, and the first layer. */
export function Level({ handle, seat }: { handle: JobHandle; seat: SeatState }) {
  const { view } = handle;
  const first = useFirstLayer(view, seat);
  const tilted = !!seat.tilt_deg;
  return (
    <section aria-label="Level">
      <Head title="Level">
        {tilted && (
          <Press className="link" onClick={() => void handle.act({ do: "level-seat", ...seatOf(seat) }).catch(tell)}>
            Level it
          </Press>
        )}
      </Head>
      {tilted ? (
        <Wedge seat={seat} />
      ) : (
        <p className={sheetCss.text}>
          {seat.tilt_deg === null ? (
            <>
              It rests on nothing flat within 5° of level. Choose a way to stand, or put a face down; a ball has to be
              cut, on{" "}
              <Link href={`/jobs/${view.id}/division`} className="link">
                Division
              </Link>
              .
            </>
          ) : (
            <b className="settled">It lies flat.</b>
          )}
        </p>
      )}
      {first && <Footprints first={first} />}
      {first && <FirstLayerWords first={first} />}
    </section>
  );
}

/** The first layer in words: its area, its islands, and what hangs over. */
function FirstLayerWords({ first }: { first: FirstLayer }) {
  return (
    <p className={sheetCss.text} data-testid="first-layer">
      First layer <span className="number">{count(Math.round(first.area_mm2))} mm²</span> in {first.islands}{" "}
      {first.islands === 1 ? "island" : "islands"}
      {first.level_area_mm2 != null && (
        <>
          ; level it would be <span className="number">{count(Math.round(first.level_area_mm2))} mm²</span> in{" "}
          {first.level_islands}
        </>
      )}
      . Hangs over by more than {first.steepest_deg}°:{" "}
      <span className="number">{count(Math.round(first.overhang_mm2))} mm²</span>
      {first.wants_support && (
        <>
          , about <span className="number">{rounded(first.support_mm3 / 1000, 1)} cm³</span> of support (an estimate)
        </>
      )}
      .{" "}
      {first.bridges > 0 && (
        <>
          {first.bridges === 1 ? "A bridge" : `${first.bridges} bridges`} of{" "}
          <span className="number">{count(Math.round(first.bridges_mm2))} mm²</span>, up to{" "}
          <span className="number">{rounded(first.widest_bridge_mm, 1)} mm</span> across,{" "}
          {first.bridges === 1 ? "is" : "are"} among it.{" "}
        </>
      )}
      {first.starts.length > 0 && (
        <span className="look">
          {first.starts.length === 1 ? "One place begins" : `${first.starts.length} places begin`} in mid-air, the
          lowest at {rounded(Math.min(...first.starts.map((start) => start[2]!)), 1)} mm.
        </span>
      )}
    </p>
  );
}

function Wedge({ seat }: { seat: SeatState }) {
  const slope = Math.min(0.42, Math.tan(((seat.tilt_deg ?? 0) * Math.PI) / 180) * TIMES);
  const times = slope < 0.42 ? TIMES : Math.max(1, Math.round(0.42 / Math.tan(((seat.tilt_deg ?? 0) * Math.PI) / 180)));
  // The low side is drawn where it is said to be: at the right when it is down to the right.
  const turned = /right/.test(seat.lower);
  const [left, right, ground] = turned ? [300, 66, 86] : [44, 300, 86];
  const rise = Math.max(3, Math.abs(right - left) * slope * 0.55);
  const high = 20;
  return (
    <svg
      width={WIDTH}
      height={116}
      style={{ display: "block", margin: "0 16px" }}
      role="img"
      aria-label={`tilted by ${rounded(seat.tilt_deg!, 2)} degrees, ${rounded(seat.gap_mm!, 2)} mm above the plate at the far side`}
    >
      <defs>
        <pattern id="ground" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
          <path d="M0 0V7" stroke="var(--rule-strong)" strokeWidth="1" />
        </pattern>
      </defs>
      <path
        d={`M${left} ${ground}L${right} ${ground - rise}V${ground - rise - high}L${left} ${ground - high}Z`}
        fill="var(--level)"
        stroke="var(--ink)"
        strokeWidth="1.3"
      />
      <rect x="0" y={ground} width={WIDTH - 16} height="6" fill="url(#ground)" />
      <path d={`M0 ${ground}H${WIDTH - 16}`} stroke="var(--ink)" strokeWidth="1.3" />
      <path
        d={`M${right} ${ground}V${ground - rise}M${right - 5} ${ground + 5}L${right + 5} ${ground - 5}M${right - 5} ${ground - rise + 5}L${right + 5} ${ground - rise - 5}`}
        stroke="var(--look)"
        strokeWidth="1.4"
        fill="none"
      />
      <text
        x={turned ? right - 12 : right + 10}
        y={ground - rise / 2 + 5}
        textAnchor={turned ? "end" : "start"}
        fill="var(--look)"
        style={{ font: "500 14px var(--number)" }}
      >
        {rounded(seat.gap_mm!, 2)}
      </text>
      <text x={44} y={ground + 22} fill="var(--ink-soft)" style={{ font: "12.5px Barlow" }}>
        {rounded(seat.tilt_deg!, 2)}° down {seat.lower}, heights drawn {times} times
      </text>
    </svg>
  );
}
