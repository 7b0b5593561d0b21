import { Columns } from "../../blocks/Columns";
import { Dialog } from "../../blocks/Dialog";

import { useQuery } from "@tanstack/react-query";
import { Fragment } from "react";
import { api } from "../../api/client";
import type { SheetBody, ProofSheet } from "../../api/types";
import { count, mm } from "../../blocks/numbers";
import css from "./ProofSheetPage.module.css";

/** The proof sheet of a release on the screen: the same that is printed, a drawing with its title block. */
export function ProofSheetPage({ job, release, close }: { job: string; release: number; close: () => void }) {
  const { data: sheet } = useQuery({
    queryKey: ["proof-sheet", job, release],
    queryFn: () => api.proofSheet(job, release),
    staleTime: Infinity,
  });
  const at = `/api/jobs/${job}/releases/${release}`;
  return (
    <Dialog
      close={close}
      size="min(1160px, 94vw)"
      title={`Proof sheet, release ${release}`}
      classNames={{ body: css.body, content: css.content }}
    >
      {sheet && (
        <>
          <p className={css.print}>
            To print:{" "}
            <a className="link" href={`${at}/sheet.pdf?kind=a4`} download>
              PDF, A4
            </a>{" "}
            <a className="link" href={`${at}/sheet.pdf?kind=letter`} download>
              PDF, Letter
            </a>
          </p>
          <Files sheet={sheet} />
          {sheet.bodies.map((body) => (
            <Body key={body.id} at={at} body={body} />
          ))}
          {sheet.plates.map((plate) => (
            <Plate key={plate.number} plate={plate} />
          ))}
          <TitleBlock sheet={sheet} />
        </>
      )}
    </Dialog>
  );
}

function Files({ sheet }: { sheet: ProofSheet }) {
  return (
    <section className={css.page}>
      <h3>Files released</h3>
      <table className={css.table}>
        <Columns of={["file", "size, mm", "unit", "triangles", "checks", "worst off, mm", "SHA-256"]} />
        <tbody>
          {sheet.files.map((file) => (
            <tr key={file.name}>
              <td>
                {file.name}
                {file.count > 1 && `, ${file.count} wanted`}
              </td>
              <td className="number">{(file.size_mm as number[]).map((one) => one.toFixed(4)).join(" × ")}</td>
              <td>{file.unit}</td>
              <td className="number">{count(file.triangles)}</td>
              <td className="number">{file.checks}</td>
              <td className="number">{file.worst_mm.toFixed(7)}</td>
              <td className={`number ${css.hash}`}>{file.sha256}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h3>Files they came from</h3>
      <table className={css.table}>
        <tbody>
          {sheet.sources.map((source) => (
            <tr key={source.sha256}>
              <td>{source.name}</td>
              <td>{source.unit_says}</td>
              <td>{source.up} up</td>
              <td className={`number ${css.hash}`}>{source.sha256}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        Held against {sheet.original_says}. {sheet.checks} comparisons, all of which hold.
      </p>
      <p>Let pass on purpose: {sheet.accepted.length ? sheet.accepted.join("; ") : "nothing"}.</p>
    </section>
  );
}

function Body({ at, body }: { at: string; body: ProofSheet["bodies"][number] }) {
  return (
    <section className={`${css.page} ${css.drawn}`}>
      <img src={`${at}/drawing/${body.id}`} alt={`${body.names[0]} in three views`} loading="lazy" />
      <div>
        <h3>
          {body.names[0]}
          {body.names.length > 1 && `, and ${body.names.length - 1} alike`}
        </h3>
        <ChainTable body={body} />
        <dl className={css.facts}>
          {body.says.map((line) => (
            <Fragment key={line.label}>
              <dt>{line.label}</dt>
              <dd>{line.text}</dd>
            </Fragment>
          ))}
        </dl>
        {body.readings.length > 0 && (
          <table className={css.table}>
            <Columns of={[{ unseen: "number" }, "reading", "wanted", "released"]} />
            <tbody>
              {body.readings.map((reading, i) => (
                <tr key={i}>
                  <td className={reading.met ? "settled" : "look"}>({i + 1})</td>
                  <td>{reading.name}</td>
                  <td className="number">{reading.typed}</td>
                  <td className={`number ${reading.met ? "settled" : "look"}`}>
                    {reading.found}
                    {!reading.met && " missed"}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
    </section>
  );
}

/** How the sizes of a body came about. */
function ChainTable({ body }: { body: SheetBody }) {
  return (
    <table className={css.table}>
      <Columns of={[{ unseen: "axis" }, "in the file", "× mm", "× correction", "= size", "released"]} />
      <tbody>
        {body.chain.map((row) => (
          <tr key={row.axis}>
            <td>{row.axis}</td>
            <td className="number">{row.number.toPrecision(7).replace(/\.?0+$/, "")}</td>
            <td className="number">{row.mm_per_unit}</td>
            <td className="number">{row.factor.toPrecision(7).replace(/\.?0+$/, "")}</td>
            <td className="number">{mm(row.size_mm)}</td>
            <td className="number">{mm(row.released_mm)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Plate({ plate }: { plate: ProofSheet["plates"][number] }) {
  const [wide, deep] = plate.room as number[];
  const path = (ring: number[][]) =>
    `M${ring.map(([x, y]) => `${x!.toFixed(2)} ${(deep! - y!).toFixed(2)}`).join("L")}Z`;
  return (
    <section className={`${css.page} ${css.drawn}`}>
      <svg viewBox={`-4 -4 ${wide! + 8} ${deep! + 8}`} role="img" aria-label={`Plate ${plate.number} from above`}>
        {plate.shape === "box" ? (
          <rect width={wide} height={deep} className={css.plate} />
        ) : (
          <circle cx={wide! / 2} cy={deep! / 2} r={wide! / 2} className={css.plate} />
        )}
        {plate.seats.map((seat) => (
          <path key={seat.balloon} d={(seat.rings as number[][][]).map(path).join("")} className={css.seat} />
        ))}
        {plate.seats.map((seat) => {
          const points = (seat.rings as number[][][]).flat();
          const x = (Math.min(...points.map((p) => p[0]!)) + Math.max(...points.map((p) => p[0]!))) / 2;
          const y = deep! - (Math.min(...points.map((p) => p[1]!)) + Math.max(...points.map((p) => p[1]!))) / 2;
          const r = wide! / 44;
          return (
            <g key={seat.balloon} className={css.balloon}>
              <circle cx={x} cy={y} r={r} />
              <text x={x} y={y + r * 0.4} fontSize={r * 1.1} textAnchor="middle">
                {seat.balloon}
              </text>
            </g>
          );
        })}
      </svg>
      <div>
        <h3>
          Plate {plate.number}, {plate.machine}
        </h3>
        <table className={css.table}>
          <tbody>
            {plate.seats.map((seat) => (
              <tr key={seat.balloon}>
                <td className="number">{seat.balloon}</td>
                <td>{seat.body}</td>
                <td>
                  {seat.place_says}; {seat.turns_says}
                  {seat.lift_mm > 0 && `, lift ${mm(seat.lift_mm)} mm`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function TitleBlock({ sheet }: { sheet: ProofSheet }) {
  return (
    <footer className={css.title}>
      {[
        ["job", sheet.job],
        ["revision", sheet.letter],
        ["release", `r${sheet.release}`],
        ["date", sheet.day],
        ["files", String(sheet.files.length)],
        ["worst off", `${sheet.worst_mm.toFixed(7)} mm`],
      ].map(([label, says]) => (
        <span key={label}>
          <small>{label}</small>
          <b>{says}</b>
        </span>
      ))}
      <span>
        <em className={sheet.holds ? "settled" : "stop"}>{sheet.holds ? "PROVEN" : "NOT PROVEN"}</em>
      </span>
    </footer>
  );
}
