import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api } from "../../api/client";
import type { JobHandle } from "../../api/useJob";
import { mm, volume } from "../../blocks/numbers";
import { sheetCss } from "../../blocks/Sheet";
import type { Subject } from "../../job/subject";
import css from "./TruingSheet.module.css";

interface Props {
  handle: JobHandle;
  subject: Subject;
}

/** The file, the corrected and the released body side by side, as numbers and as outlines; and the drawing. */
export function BeforeAfter({ handle, subject }: Props) {
  const [open, setOpen] = useState(false);
  const [drawn, setDrawn] = useState(false);
  const { data } = useQuery({
    queryKey: ["compare", handle.view.id, subject.key, handle.view.number],
    queryFn: () => api.compare(handle.view.id, subject.key),
    enabled: open,
    placeholderData: (before) => before,
  });
  const address = `/api/jobs/${handle.view.id}/drawing/${subject.key}`;
  return (
    <>
      <details className={css.more} onToggle={(event) => setOpen(event.currentTarget.open)}>
        <summary>Before and after</summary>
        {data && (
          <>
            <table className={`${sheetCss.table} ${css.compare}`} data-testid="compare">
              <thead>
                <tr>
                  <th />
                  {data.states.map((one) => (
                    <th key={one.name} className={sheetCss.r}>
                      {one.name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {(["X", "Y", "Z"] as const).map((axis, i) => (
                  <tr key={axis}>
                    <td>{axis}, mm</td>
                    {data.states.map((one) => (
                      <td key={one.name} className={`${sheetCss.r} number`}>
                        {mm(one.size_mm[i]!)}
                      </td>
                    ))}
                  </tr>
                ))}
                <Row name="volume" values={data.states.map((one) => volume(one.volume_mm3))} />
                <Row name="surface, cm²" values={data.states.map((one) => (one.area_mm2 / 100).toPrecision(4))} />
                <Row name={`mass, ${handle.view.job.material!.name}`} values={data.states.map((one) => `${one.mass_g.toFixed(1)} g`)} />
                {data.states[0]!.strand_m != null && <Row name="strand, solid" values={data.states.map((one) => `${one.strand_m!.toFixed(1)} m`)} />}
              </tbody>
            </table>
            <div className={css.outlines} dangerouslySetInnerHTML={{ __html: data.outlines }} />
            <p className={css.hint}>Dashed: in the file. Inked: corrected. Dotted: released with its allowance. From the front, and from above.</p>
          </>
        )}
      </details>
      <div className={css.row}>
        <button type="button" className={css.small} onClick={() => setDrawn(true)}>
          Drawing in three views
        </button>
      </div>
      {drawn && <Drawing address={`${address}?at=${handle.view.number}`} name={subject.name} close={() => setDrawn(false)} />}
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
  const box = useRef<HTMLDialogElement>(null);
  useEffect(() => box.current?.showModal(), []);
  return (
    <dialog ref={box} className={css.drawing} aria-label={`Drawing of ${name}`} onClose={close}>
      <header>
        <h2>{name}, three views</h2>
        <a className="link" href={address} download={`${name}_drawing.svg`}>
          Download as SVG
        </a>
        <button type="button" className={css.small} onClick={() => box.current?.close()}>
          Close
        </button>
      </header>
      <img src={address} alt={`${name} from the front, from above and from the left, with its sizes and readings`} />
    </dialog>
  );
}
