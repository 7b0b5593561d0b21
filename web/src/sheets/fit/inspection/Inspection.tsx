import { Columns } from "../../../blocks/Columns";
import { FileButton } from "@mantine/core";
import { useRef, useState } from "react";
import { api } from "../../../api/client";
import { tell, type JobHandle } from "../../../api/useJob";
import type { InspectionView } from "../../../api/types";
import { Choice } from "../../../blocks/Choice";
import { rounded } from "../../../blocks/numbers";
import { Press } from "../../../blocks/Press";
import { Head, sheetCss } from "../../../blocks/Sheet";
import { TypedField } from "../../../blocks/TypedField";
import css from "../Fit.module.css";
import { lookAt } from "../lookedAt";
import { MeasuredRows } from "./MeasuredRows";
import { useInspection } from "./useInspection";

/** Printed parts: what they measure at the job's own gauges and pairs, and what that tells of the machine. */
export function Inspection({ handle }: { handle: JobHandle }) {
  const data = useInspection(handle.view);
  const [chosen, choose] = useState("");
  const parts = data?.parts ?? [];
  const part = parts.find((one) => one.id === chosen) ?? parts.at(-1);
  const add = () => handle.act({ do: "add-printed-part", name: "" }).then(() => choose(""));
  return (
    <section aria-label="Measured parts">
      <Head title="Measured parts">
        <Press className="link" onClick={() => void add().catch(tell)}>
          {parts.length ? "Another part" : "Measure a printed part"}
        </Press>
      </Head>
      {!part && (
        <p className={sheetCss.text}>
          Once parts are printed, say what they measure: each size is held against its tolerance, and three parts tell
          what the machine does.
        </p>
      )}
      {data && part && (
        <>
          <div className={css.band}>
            <Choice
              label="Printed part"
              value={part.id}
              options={parts.map((one) => [one.id, one.name] as const)}
              width={112}
              choose={choose}
            />
            <span className={part.out ? "look" : "soft"}>
              {part.out ? `${part.out} of ${part.measured} out` : `${part.measured} measured`}
            </span>
            <Press
              className="link"
              onClick={() => void handle.act({ do: "remove-printed-part", part: part.id }).catch(tell)}
            >
              Leave it out
            </Press>
          </div>
          <MeasuredRows handle={handle} data={data} part={part.id} />
          <Tolerance handle={handle} data={data} />
          <MachineSays handle={handle} data={data} />
        </>
      )}
      <Files handle={handle} measured={!!part} />
    </section>
  );
}

function Tolerance({ handle, data }: { handle: JobHandle; data: InspectionView }) {
  return (
    <div className={css.band}>
      <span>what has no band may be off by</span>
      <TypedField
        label="Tolerance of printed parts"
        value={rounded(data.tolerance_mm, 2)}
        width={64}
        commit={(typed) => handle.act({ do: "set-inspection-tolerance", typed })}
      />
      <span className="soft">mm</span>
    </div>
  );
}

/** What the machine does to outside and inside sizes and holes; one press makes it the machine's calibration. */
function MachineSays({ handle, data }: { handle: JobHandle; data: InspectionView }) {
  const calibrate = async () => {
    const { found } = await api.calibrateByParts(handle.view.id);
    const says = data.parts.length === 1 ? "a measured part" : `${data.parts.length} measured parts`;
    await handle.act({ do: "take-calibration", body: null, found, says });
  };
  if (data.lacks) return <p className={css.told}>{data.lacks[0]!.toUpperCase() + data.lacks.slice(1)}.</p>;
  return (
    <>
      <table className={`${sheetCss.table} ${css.must}`} aria-label="What the machine does to sizes">
        <Columns of={["Sizes", { numbers: "off by, mm" }, { numbers: "scale, %" }, { numbers: "±, mm" }]} />
        <tbody>
          {data.lines.map((line) => (
            <tr key={line.form + line.axis}>
              <td>
                {line.form} {line.axis.toUpperCase()} <small>{line.count} measured</small>
              </td>
              <td className={`${sheetCss.r} number`}>{rounded(line.offset_mm, 3).replace("-", "−")}</td>
              <td className={`${sheetCss.r} number`}>{rounded(100 * line.share, 2).replace("-", "−")}</td>
              <td className={`${sheetCss.r} number`}>{rounded(line.uncertainty_mm, 3)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className={css.band}>
        <Press look="frees" onClick={() => void calibrate().catch(tell)}>
          Make it the machine’s calibration
        </Press>
      </div>
    </>
  );
}

/** The inspection sheet, the table to be filled, and one that comes back filled. */
function Files({ handle, measured }: { handle: JobHandle; measured: boolean }) {
  const reset = useRef<() => void>(null);
  const at = `/api/jobs/${handle.view.id}/inspection`;
  const take = async (file: File | null) => {
    reset.current?.();
    if (file) await handle.act({ do: "take-measurements", text: await file.text() }).catch(tell);
  };
  return (
    <div className={css.band}>
      {measured && (
        <Press className="link" onClick={() => lookAt({ sheet: "inspection" })}>
          Inspection sheet
        </Press>
      )}
      <a className="link" href={`${at}/table.csv`} download>
        Table to fill
      </a>
      <FileButton
        accept=".csv,.txt,.tsv"
        resetRef={reset}
        inputProps={{ "aria-label": "Measured parts as CSV" }}
        onChange={(file) => void take(file)}
      >
        {({ onClick }) => (
          <Press className="link" onClick={onClick}>
            Take a filled one
          </Press>
        )}
      </FileButton>
    </div>
  );
}
