import { Columns } from "../../../blocks/Columns";
import { Checkbox } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { api } from "../../../api/client";
import { tell, type JobHandle } from "../../../api/useJob";
import type { PrintSettings, UserAction } from "../../../api/types";
import { Segments } from "../../../blocks/Choice";
import { Fold } from "../../../blocks/Fold";
import { Press } from "../../../blocks/Press";
import { sheetCss } from "../../../blocks/Sheet";
import { TypedField } from "../../../blocks/TypedField";
import type { Seating } from "../useSeating";
import css from "./cost.module.css";
import { grams } from "./costOf";

type Setting = Extract<UserAction, { do: "set-printing" }>["setting"];

const FIELDS: readonly (readonly [Setting, string, string])[] = [
  ["layer", "layer", "mm"],
  ["bead", "bead", "mm"],
  ["shells", "shells", ""],
  ["solid_layers", "solid layers", ""],
  ["infill", "infill", "%"],
  ["support_density", "support filled", "%"],
];
const PATTERNS = [
  ["lines", "lines"],
  ["waves", "waves"],
] as const;

interface Props {
  handle: JobHandle;
  seating: Seating;
}

/** The settings that matter for what a plate takes, and sets of them with what each would change. */
export function Settings({ handle, seating }: Props) {
  const settings = handle.view.job.printing ?? ({} as PrintSettings);
  const process = seating.plate.machine.process!;
  const resin = process.kind === "resin";
  const set = (setting: Setting, typed: string) => handle.act({ do: "set-printing", setting, typed });
  const usual: Partial<Record<Setting, number>> = { layer: process.layer, bead: process.bead };
  const says = resin
    ? `layers of ${settings.layer ?? process.layer} mm`
    : `${settings.name ? `${settings.name}, ` : ""}${settings.layer ?? process.layer} mm, ${settings.infill} %`;
  return (
    <Fold title="Print settings" name="seating-print" says={says}>
      <dl className={css.settings}>
        {FIELDS.filter(([setting]) => !resin || setting === "layer").map(([setting, name, unit]) => (
          <Field key={setting} name={name} unit={unit} value={settings[setting]} usual={usual[setting]}>
            {(value, placeholder) => (
              <TypedField
                label={`Print setting: ${name}`}
                value={value}
                placeholder={placeholder}
                width={58}
                commit={(typed) => set(setting, typed)}
              />
            )}
          </Field>
        ))}
      </dl>
      {!resin && (
        <div className={css.line}>
          <Segments
            label="Pattern of the infill"
            value={settings.pattern ?? "lines"}
            options={PATTERNS}
            choose={(pattern) => void set("pattern", pattern).catch(tell)}
            width={150}
          />
          <Checkbox
            label={`hold what leans over ${process.overhang}°`}
            checked={settings.supports ?? true}
            onChange={(event) => void set("supports", event.currentTarget.checked ? "yes" : "no").catch(tell)}
          />
        </div>
      )}
      <Sets handle={handle} plate={seating.plate.id} />
      <div className={css.line}>
        <span>keep these as</span>
        <TypedField
          label="Name of a set of print settings"
          value=""
          placeholder="a name"
          width={130}
          commit={(name) => handle.act({ do: "keep-print-set", plate: seating.plate.id, name })}
        />
        <span className="soft">with {seating.plate.machine.name}</span>
      </div>
    </Fold>
  );
}

interface FieldProps {
  name: string;
  unit: string;
  value: unknown;
  /** What the machine has, where the setting leaves it to that. */
  usual: number | undefined;
  children: (value: string, placeholder: string) => React.ReactNode;
}

function Field({ name, unit, value, usual, children }: FieldProps) {
  return (
    <>
      <dt>{name}</dt>
      <dd>
        {children(value === null || value === undefined ? "" : String(value), usual === undefined ? "" : String(usual))}
        <span className="soft">{unit}</span>
      </dd>
    </>
  );
}

/** Sets of settings, each with what it would change on this plate. */
function Sets({ handle, plate }: { handle: JobHandle; plate: string }) {
  const { view } = handle;
  const { data } = useQuery({
    queryKey: ["print-sets", view.id, view.number, plate],
    queryFn: () => api.printSets(view.id, plate),
    placeholderData: (before) => before,
  });
  if (!data?.length) return null;
  return (
    <table className={`${sheetCss.table} ${css.sets}`} aria-label="Sets of print settings">
      <Columns
        of={[
          "Set",
          { numbers: "≈ time" },
          { numbers: "≈ grams" },
          { numbers: "it changes" },
          { unseen: "what can be done" },
        ]}
      />
      <tbody>
        {data.map((row) => (
          <tr key={row.settings.name}>
            <td>{row.settings.name}</td>
            <td className={`${sheetCss.r} number`}>{row.time}</td>
            <td className={`${sheetCss.r} number`}>{grams(row.grams)}</td>
            <td className={`${sheetCss.r} number`}>{row.saves}</td>
            <td className={sheetCss.r}>
              <Press
                className="link"
                why={view.job.printing?.name === row.settings.name && "this set is in use"}
                onClick={() => void handle.act({ do: "use-print-settings", settings: row.settings }).catch(tell)}
              >
                Use
              </Press>
              {row.own && (
                <Press
                  className="link"
                  aria-label={`Remove the set ${row.settings.name}`}
                  onClick={() =>
                    void handle.act({ do: "forget-print-set", plate, name: row.settings.name! }).catch(tell)
                  }
                >
                  Remove
                </Press>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
