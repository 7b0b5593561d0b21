import type { Estimate } from "../../../api/types";
import css from "./cost.module.css";
import { KINDS } from "./costOf";

/** Shares under this are told together as the rest. */
const LEAST = 0.06;

/** What the time goes into, by kind of path: ink, hatch and stipple tell the kinds apart. */
export function KindBar({ estimate }: { estimate: Estimate }) {
  const rows = estimate.by_kind!;
  const moving = rows.reduce((sum, row) => sum + row.seconds, 0) || 1;
  const large = rows.filter((row) => row.seconds / moving >= LEAST);
  const rest = 1 - large.reduce((sum, row) => sum + row.seconds / moving, 0);
  const words = large.map((row) => share(KINDS[row.kind], row.seconds / moving));
  if (rest > 0.005) words.push(share("rest", rest));
  return (
    <figure className={css.kinds} aria-label={`Where the time goes: ${words.join(", ")}`}>
      <div className={css.bar} aria-hidden>
        {large.map((row) => (
          <span key={row.kind} className={css[row.kind]} style={{ flexGrow: row.seconds / moving }} />
        ))}
        {rest > 0.005 && <span className={css.rest} style={{ flexGrow: rest }} />}
      </div>
      <figcaption>{words.join(" · ")}</figcaption>
    </figure>
  );
}

/** A name and its share, which a line's end does not part. */
function share(name: string, part: number): string {
  return `${name} ${Math.round(100 * part)} %`.replaceAll(" ", "\u00a0");
}
