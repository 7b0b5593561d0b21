import type { FilePreview, BodySilhouette, Preview } from "../../api/types";
import { Press } from "../../blocks/Press";
import { mm } from "../../blocks/numbers";
import css from "./ReleaseSheet.module.css";

const WIDE = 366;
const HIGH = 104;
const MARGIN = { side: 56, top: 12, foot: 24 };

/** A small elevation of what a file will hold: the bodies from the front, the ground or zero line, and the origin. */
export function Contents({
  preview,
  shown,
  show,
}: {
  preview: Preview;
  shown: number;
  show: (number: number) => void;
}) {
  const { files, drawn } = preview;
  const at = Math.min(shown, files.length - 1);
  const file = files[at];
  if (!file) return null;
  const low = file.low_mm as number[],
    high = file.high_mm as number[];
  // The origin is shown where it is near; where it is far away an arrow would say no more than the words do.
  const across = high[0]! - low[0]!,
    up = high[2]! - low[2]!;
  const reach = 0.6 * Math.max(across, up);
  const x0 = low[0]! > 0 && low[0]! < reach ? 0 : low[0]!,
    x1 = high[0]! < 0 && high[0]! > -reach ? 0 : high[0]!;
  const z0 = low[2]! > 0 && low[2]! < reach ? 0 : low[2]!,
    z1 = Math.max(high[2]!, z0);
  const scale = Math.min(
    (WIDE - 2 * MARGIN.side) / Math.max(x1 - x0, 1e-9),
    (HIGH - MARGIN.top - MARGIN.foot) / Math.max(z1 - z0, 1e-9),
  );
  const left = (WIDE - (x1 - x0) * scale) / 2;
  const x = (mm: number) => left + (mm - x0) * scale;
  const z = (mm: number) => HIGH - MARGIN.foot - (mm - z0) * scale;
  const origin = { x: x(0), z: z(0) };
  const near = origin.x > 6 && origin.x < WIDE - 6 && origin.z > 4 && origin.z < HIGH;
  return (
    <figure className={css.contents} aria-label="What the file will hold">
      <ContentsDrawing
        file={file}
        near={near}
        origin={origin}
        drawn={drawn}
        x={x}
        z={z}
        low={low}
        high={high}
        up={up}
        across={across}
      />
      <ContentsCaption files={files} at={at} show={show} preview={preview} />
    </figure>
  );
}

interface ContentsCaptionProps {
  files: FilePreview[];
  at: number;
  show: (number: number) => void;
  preview: Preview;
}

/** What is drawn, and the way to the next file. */
function ContentsCaption({ files, at, show, preview }: ContentsCaptionProps) {
  return (
    <figcaption>
      {files.length > 1 && (
        <span className={css.pager}>
          <Press
            className="link"
            aria-label="The file before"
            why={at === 0 && "this is the first file"}
            onClick={() => show(at - 1)}
          >
            ‹
          </Press>
          file {at + 1} of {files.length}
          <Press
            className="link"
            aria-label="The next file"
            why={at === files.length - 1 && "this is the last file"}
            onClick={() => show(at + 1)}
          >
            ›
          </Press>
        </span>
      )}
      {preview.place_says} {preview.holds_says}
    </figcaption>
  );
}

interface ContentsDrawingProps {
  file: FilePreview;
  near: boolean;
  origin: { x: number; z: number };
  drawn: BodySilhouette[];
  x: (mm: number) => number;
  z: (mm: number) => number;
  low: number[];
  high: number[];
  up: number;
  across: number;
}

/** A file from the front, its bodies in their colours. */
function ContentsDrawing({ file, near, origin, drawn, x, z, low, high, up, across }: ContentsDrawingProps) {
  return (
    <svg viewBox={`0 0 ${WIDE} ${HIGH}`} role="img" aria-label={`${file.full_name} from the front`}>
      {near && (
        <>
          <line x1="8" x2={WIDE - 8} y1={origin.z} y2={origin.z} className={css.zero} />
          {Array.from({ length: 30 }, (_, i) => (
            <line key={i} x1={12 + 12 * i} x2={6 + 12 * i} y1={origin.z} y2={origin.z + 5} className={css.ground} />
          ))}
        </>
      )}
      {drawn.map((silhouette, i) => (
        <path
          key={i}
          d={silhouette.rings
            .map((ring) => `M${ring.map(([a, b]) => `${x(a).toFixed(1)} ${z(b).toFixed(1)}`).join("L")}Z`)
            .join("")}
          fill={silhouette.colour ?? "var(--rule-fine)"}
          className={silhouette.boxed ? `${css.held} ${css.boxed}` : css.held}
        />
      ))}
      {near && (
        <g className={css.origin} transform={`translate(${origin.x} ${origin.z})`}>
          <circle r="4.5" />
          <path d="M-8 0H8M0 -8V8" />
        </g>
      )}
      <text x={x(low[0]!) - 6} y={(z(low[2]!) + z(high[2]!)) / 2 + 4} textAnchor="end">
        {mm(up)}
      </text>
      <text x={(x(low[0]!) + x(high[0]!)) / 2} y={HIGH - 6} textAnchor="middle">
        {mm(across)}
      </text>
      {low[2]! > 1e-6 && near && (
        <text x={WIDE - 10} y={z(low[2]!) + 4} textAnchor="end" className={css.lift}>
          +{mm(low[2]!)}
        </text>
      )}
    </svg>
  );
}
