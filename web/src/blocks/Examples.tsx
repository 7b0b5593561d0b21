import { Columns } from "./Columns";
import { Checkbox, Tooltip } from "@mantine/core";
import { useState } from "react";
import { Choice, Segments } from "./Choice";
import css from "./Examples.module.css";
import { Fold } from "./Fold";
import { NextStep } from "./NextStep";
import { Press } from "./Press";
import { RowRadio } from "./RowRadio";
import { Head, sheetCss } from "./Sheet";
import { TypedField } from "./TypedField";

const MEANS = [
  ["caliper", "caliper"],
  ["tape", "tape"],
  ["rule", "rule"],
] as const;
const FORMATS = [
  ["3mf", "3MF"],
  ["stl", "STL"],
] as const;

/** The kit that sheets are built from, one of each, with made-up numbers. */
export function Examples() {
  const [means, setMeans] = useState<(typeof MEANS)[number][0]>("caliper");
  const [format, setFormat] = useState<(typeof FORMATS)[number][0]>("3mf");
  const [kept, keep] = useState(true);
  const [step, setStep] = useState("fine");
  const [length, setLength] = useState("171.5");
  return (
    <div className={css.page}>
      <main className={css.paper} aria-label="Examples">
        <Head title="One of several">
          <span className="soft">a list, a few side by side, a row of a table</span>
        </Head>
        <div className={css.row}>
          <Choice label="Taken with" value={means} options={MEANS} choose={setMeans} width={130} />
          <Segments label="Written as" value={format} options={FORMATS} choose={setFormat} width={150} />
        </div>
        <ExampleTable step={step} setStep={setStep} />
        <Head title="Typed and ticked" />
        <div className={css.row}>
          <TypedField
            label="Real length"
            value={length}
            commit={(typed) => {
              setLength(typed);
              return Promise.resolve();
            }}
          />
          <Checkbox label="keep as drawn" checked={kept} onChange={(event) => keep(event.target.checked)} />
          <Tooltip label="Why this is so, reachable by keyboard">
            <Press className="link">why</Press>
          </Tooltip>
        </div>
        <Fold title="A section that folds" says={kept ? "kept as drawn" : "follows"} name="examples">
          <p className={sheetCss.text}>
            It remembers how it was left, and says the most telling thing when it is folded.
          </p>
        </Fold>
        <NextStep to="/" says="Nothing is left to settle here.">
          All jobs
        </NextStep>
      </main>
    </div>
  );
}

/** A table as sheets have them. */
function ExampleTable({ step, setStep }: { step: string; setStep: (value: string) => void }) {
  return (
    <table className={sheetCss.table}>
      <Columns of={["step", { numbers: "triangles" }]} />
      <tbody role="radiogroup" aria-label="Step">
        {["coarse", "medium", "fine"].map((name, i) => (
          <tr key={name} className={step === name ? sheetCss.chosen : undefined}>
            <td>
              <RowRadio group="examples-step" checked={step === name} choose={() => setStep(name)}>
                {name}
              </RowRadio>
            </td>
            <td className={`${sheetCss.r} number`}>{(i + 1) * 1200}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
