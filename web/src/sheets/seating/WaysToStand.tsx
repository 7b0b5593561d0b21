import { Radio } from "@mantine/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { CostedWay, JobView, SeatState, WayToStand } from "../../api/types";
import { Choice } from "../../blocks/Choice";
import { radioKeys } from "../../blocks/radioKeys";
import { Unseen } from "../../blocks/Unseen";
import { Press } from "../../blocks/Press";
import { area, count, rounded } from "../../blocks/numbers";
import { Head, sheetCss } from "../../blocks/Sheet";
import css from "./Seating.module.css";
import { FaceList, SHOWS } from "./FaceList";
import { seatOf, type Seating } from "./useSeating";

const WISHES = [
  ["contact", "most on the plate"],
  ["overhang", "least overhang"],
  ["height", "least height"],
  ["x", "strong along X"],
  ["y", "strong along Y"],
  ["z", "strong along Z"],
  ["sky", "marked faces up"],
  ["seconds", "least time"],
  ["grams", "least material"],
  ["cost", "least money"],
] as const;
type Wish = (typeof WISHES)[number][0];
const COSTS = ["seconds", "grams", "cost"] as const;
const ofCost = (wish: Wish) => COSTS.find((one) => one === wish);
const MOST = 8;
const [WIDE, HIGH, FOOT] = [84, 62, 7];

const isSame = (one: { down: readonly number[] }, other: { down: readonly number[] }) =>
  one.down.join() === other.down.join();

/** Ways to stand, and what the plate would take with each. */
function useWays(view: JobView, seat: SeatState, wish: Wish) {
  const kept = { placeholderData: keepPreviousData, staleTime: Infinity, gcTime: 60_000 } as const;
  const costWish = ofCost(wish);
  const geometric = costWish ? "contact" : (wish as Exclude<Wish, (typeof COSTS)[number]>);
  const { data, isFetching } = useQuery({
    queryKey: ["ways", view.id, view.number, seat.id, geometric],
    queryFn: () => api.ways(view.id, seat.subject, seat.copy_number, geometric),
    ...kept,
  });
  const { data: costs } = useQuery({
    queryKey: ["way-costs", view.id, view.number, seat.id, costWish ?? "seconds"],
    queryFn: () => api.wayCosts(view.id, seat.subject, seat.copy_number, costWish ?? "seconds"),
    ...kept,
  });
  return { data, isFetching, costs };
}

/** The ways as they come, or in the order of what they cost. */
function inOrder(ways: WayToStand[], costs: CostedWay[] | undefined, wish: Wish): WayToStand[] {
  if (!ofCost(wish) || !costs) return ways;
  return costs.flatMap((cost) => ways.filter((way) => isSame(way, cost)));
}

/** The flat, stable ways that a body can stand, as small elevations on a hatched ground. */
export function WaysToStand({ handle, seat, seating }: { handle: JobHandle; seat: SeatState; seating: Seating }) {
  const { view } = handle;
  const [wish, wishFor] = useState<Wish>("contact");
  const { data, isFetching, costs } = useWays(view, seat, wish);
  const ways = inOrder(data ?? [], costs, wish).slice(0, MOST);
  const [looked, look] = useState<number | null>(null);
  const shownWay = looked !== null ? ways[looked] : ways.find((way) => way.chosen);
  const across = Math.max(1, ...ways.flatMap((way) => way.rings.flat().map(([x]) => 2 * Math.abs(x!))));
  const tall = Math.max(1, ...ways.map((way) => way.height_mm));
  const scale = Math.min((WIDE - 8) / across, (HIGH - 6) / tall);
  const marked = view.job.bodies
    .filter((body) => seat.bodies.some((one) => one.body === body.id))
    .reduce((sum, body) => sum + (body.showing?.length ?? 0), 0);
  const marking = seating.taking === "show";
  const mark = () => {
    seating.take(marking ? "seat" : "show");
    if (!marking) seating.lookFromAbove(false);
  };
  const stand = (way: WayToStand) => void handle.act({ do: "rest-on", ...seatOf(seat), down: way.down }).catch(tell);
  return (
    <section aria-label="Ways to stand">
      <Head title="Ways to stand">
        <Choice label="Wish" value={wish} options={WISHES} choose={wishFor} width={150} />
      </Head>
      {data && ways.length === 0 && (
        <p className={sheetCss.text}>It has no flat side that its weight holds it on. A cut gives it one.</p>
      )}
      {!data && isFetching && <p className={sheetCss.text}>looking for ways to stand …</p>}
      <WaysShown {...{ ways, costs, look, seat, stand, scale, wish }} />
      {shownWay && <WayInWords way={shownWay} cost={costs?.find((one) => isSame(one, shownWay))} />}
      <ShowingLine marking={marking} mark={mark} marked={marked} handle={handle} seat={seat} />
      {marking && (
        <>
          <p className={sheetCss.text}>Click faces that are to show; once more removes a mark. Esc stops.</p>
          <FaceList
            handle={handle}
            seat={seat}
            label={SHOWS}
            take={(body, face) => handle.act({ do: "mark-showing", body, face })}
          />
        </>
      )}
    </section>
  );
}

interface WaysShownProps {
  ways: WayToStand[];
  costs: CostedWay[] | undefined;
  look: (value: number | null) => void;
  seat: SeatState;
  stand: (way: WayToStand) => void;
  scale: number;
  wish: Wish;
}

/** The ways to stand, of which one is chosen. */
function WaysShown({ ways, costs, look, seat, stand, scale, wish }: WaysShownProps) {
  return (
    <div className={css.ways} role="radiogroup" aria-label="Ways to stand">
      {ways.map((way, i) => (
        <WayToStand
          key={way.down.join()}
          way={way}
          look={look}
          i={i}
          seat={seat}
          stand={stand}
          scale={scale}
          wish={wish}
          cost={ofCost(wish) && costs?.find((cost) => isSame(cost, way))}
        />
      ))}
    </div>
  );
}

/** The way that is looked at, in words. */
function WayInWords({ way, cost }: { way: WayToStand; cost: CostedWay | undefined }) {
  return (
    <p className={sheetCss.text} data-testid="way">
      <span className="number">{rounded(way.height_mm, 2)} mm</span> high,{" "}
      <span className="number">{count(Math.round(way.contact_mm2))} mm²</span> on the plate,{" "}
      <span className="number">{count(Math.round(way.overhang_mm2))} mm²</span> hang over
      {way.wants_support && (
        <>
          , held by about <span className="number">{rounded(way.support_mm3 / 1000, 1)} cm³</span>
        </>
      )}
      ; its centre of gravity is <span className="number">{rounded(way.inside_mm, 1)} mm</span> inside what it stands on
      {way.sky != null && <>; {Math.round(100 * way.sky)} % of what shows sees the sky</>}
      {way.across.length > 0 && <>; layers lie across {way.across.slice(0, 3).join(" and ")}</>}
      {cost && (
        <>
          ; the plate takes <span className="number">≈ {cost.time}</span>,{" "}
          <span className="number">{rounded(cost.grams, 1)} g</span>
          {cost.support_g >= 0.05 && (
            <>
              , <span className="number">{rounded(cost.support_g, 1)} g</span> of it support
            </>
          )}
          {cost.cost > 0 && (
            <>
              , <span className="number">{rounded(cost.cost, 2)}</span>
            </>
          )}
        </>
      )}
      .
    </p>
  );
}

interface ShowingLineProps {
  marking: boolean;
  mark: () => void;
  marked: number;
  handle: JobHandle;
  seat: SeatState;
}

/** Marking the faces that are to show. */
function ShowingLine({ marking, mark, marked, handle, seat }: ShowingLineProps) {
  return (
    <div className={css.line}>
      <Press look="box" aria-pressed={marking} onClick={mark}>
        Mark faces that show
      </Press>
      {marked > 0 && (
        <>
          <span className="soft">
            {marked} {marked === 1 ? "face" : "faces"}
          </span>
          <Press className="link" onClick={() => void handle.act({ do: "hide-all", body: seat.subject }).catch(tell)}>
            Unmark
          </Press>
        </>
      )}
    </div>
  );
}

interface WayToStandProps {
  way: WayToStand;
  look: (value: number | null) => void;
  i: number;
  seat: SeatState;
  stand: (way: WayToStand) => void;
  scale: number;
  wish: Wish;
  /** What the plate would take, where that is wished for. */
  cost: CostedWay | undefined;
}

/** One way to stand, as a small elevation. */
function WayToStand({ way, look, i, seat, stand, scale, wish, cost }: WayToStandProps) {
  return (
    <label
      className={way.chosen ? css.chosenWay : css.way}
      title={way.why}
      onPointerEnter={() => look(i)}
      onPointerLeave={() => look(null)}
      onFocus={() => look(i)}
      onBlur={() => look(null)}
    >
      <Radio
        name={`ways ${seat.id}`}
        aria-label={`way ${i + 1}: ${way.why}`}
        checked={way.chosen}
        onChange={() => stand(way)}
        onKeyDown={radioKeys}
        className={css.wayRadio}
      />
      <Elevation way={way} scale={scale} />
      <span className="number">{cost ? `≈ ${cost.time}` : `${count(Math.round(way.contact_mm2))} mm²`}</span>
      <small className={way.hangs ? "soft" : "settled"}>
        {cost
          ? `${rounded(cost.grams, 1)} g${cost.cost > 0 ? `, ${rounded(cost.cost, 2)}` : ""}`
          : wish === "contact"
            ? `${area(way.overhang_mm2)} hang`
            : way.why}
      </small>
      {way.across.length > 0 && (
        <small className="look">
          {way.across.length} thin across
          <Unseen>: layers lie across {way.across.join("; ")}</Unseen>
        </small>
      )}
    </label>
  );
}

function Elevation({ way, scale }: { way: WayToStand; scale: number }) {
  const ground = HIGH;
  const at = ([x, y]: readonly number[]) => `${(WIDE / 2 + x! * scale).toFixed(1)} ${(ground - y! * scale).toFixed(1)}`;
  return (
    <svg width={WIDE} height={HIGH + FOOT} aria-hidden>
      <path
        d={way.rings.map((ring) => `M${ring.map(at).join("L")}Z`).join("")}
        fillRule="evenodd"
        fill={way.chosen ? "var(--level)" : "var(--section)"}
        stroke="var(--ink)"
        strokeWidth="1.2"
        strokeLinejoin="round"
      />
      <path d={`M0 ${ground}H${WIDE}`} stroke="var(--ink)" strokeWidth="1.2" />
      <path
        d={Array.from({ length: 12 }, (_, k) => `M${k * 7 + 6} ${ground + 1}l-5 5`).join("")}
        stroke="var(--rule-strong)"
        strokeWidth="0.9"
      />
    </svg>
  );
}
