import { Dialog } from "../../blocks/Dialog";
import { Unseen } from "../../blocks/Unseen";

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { JobHandle } from "../../api/useJob";
import { Press } from "../../blocks/Press";
import { mm, volume } from "../../blocks/numbers";
import { Fold } from "../../blocks/Fold";
import { sheetCss } from "../../blocks/Sheet";
import type { Subject } from "../../job/subject";
import css from "./TruingSheet.module.css";

interface Props {
  handle: JobHandle;
  subject: Subject;
}

/** The file, the corrected and the released body side by side, as numbers and as outlines; and the drawing. */
export function BeforeAfter({ handle, subject }: Props) {
  const [drawn, setDrawn] = useState(false);
  const address = `/api/jobs/${handle.view.id}/drawing/${subject.key}`;
  return (
    <>
      <Fold title="Before and after" name="before-after">
        <Compared handle={handle} subject={subject} />
      </Fold>
      <div className={css.row}>
        <Press look="box" onClick={() => setDrawn(true)}>
          Drawing in three views
        </Press>
      </div>
      {drawn && (
        <Drawing address={`${address}?at=${handle.view.number}`} name={subject.name} close={() => setDrawn(false)} />
      )}
    </>
  );
}

function Compared({ handle, subject }: Props) {
  const { data } = useQuery({
    queryKey: ["compare", handle.view.id, subject.key, handle.view.number],
    queryFn: () => api.compare(handle.view.id, subject.key),
    placeholderData: (before) => before,
  });
  if (!data) return null;
  return (
    <>
      <table className={`${sheetCss.table} ${css.compare}`} data-testid="compare">
        <thead>
          <tr>
            <th>
              <Unseen>what</Unseen>
            </th>
            {data.states.map((one) => (
              <th key={one.name} className={sheetCss.r}>
                {one.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {(["X", "Y", "Z"] as const).map((axis, i) => (
            <Row key={axis} name={`${axis}, mm`} values={data.states.map((one) => mm(one.size_mm[i]!))} />
          ))}
          <Row name="volume" values={data.states.map((one) => volume(one.volume_mm3))} />
          <Row name="surface, cm²" values={data.states.map((one) => (one.area_mm2 / 100).toPrecision(4))} />
          <Row
            name={`mass, ${handle.view.job.material!.name}`}
            values={data.states.map((one) => `${one.mass_g.toFixed(1)} g`)}
          />
          {data.states[0]!.strand_m != null && (
            <Row name="strand, solid" values={data.states.map((one) => `${one.strand_m!.toFixed(1)} m`)} />
          )}
        </tbody>
      </table>
      <div className={`${css.outlines} on-paper`} dangerouslySetInnerHTML={{ __html: data.outlines }} />
      <p className={css.hint}>
        Dashed: in the file. Inked: corrected. Dotted: released with its allowance. From the front, and from above.
      </p>
    </>
  );
}

function Row({ name, values }: { name: string; values: string[] }) {
  return (
    <tr>
      <td>{name}</td>
      {values.map((value, i) => (
        <td key={i} className={`${sheetCss.r} number`}>
          {value}
        </td>
      ))}
    </tr>
  );
}

function Drawing({ address, name, close }: { address: string; name: string; close: () => void }) {
  return (
    <Dialog close={close} size="min(1180px, 96vw)" title={`Drawing of ${name}, three views`}>
      <img
        className={`${css.drawing} on-paper`}
        src={address}
        alt={`${name} from the front, from above and from the left, with its sizes and readings`}
      />
      <a className="link" href={address} download={`${name}_drawing.svg`}>
        Download as SVG
      </a>
    </Dialog>
  );
}
