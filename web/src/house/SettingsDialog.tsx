import { Dialog } from "../blocks/Dialog";
import { Radio, Switch } from "@mantine/core";
import css from "./House.module.css";
import { changeSettings, type Settings, useSettings } from "./settings";

type Choices<Name extends keyof Settings> = readonly (readonly [Settings[Name] & string, string])[];

const THEMES: Choices<"theme"> = [
  ["system", "as the system has it"],
  ["paper", "drawing paper"],
  ["blueprint", "blueprint, for the night"],
];
const MANY: Choices<"manyFiles"> = [
  ["ask", "ask each time"],
  ["one", "one job for all"],
  ["each", "a job for each"],
];
const FIRST: Choices<"first"> = [
  ["mm", "millimetres"],
  ["in", "inches"],
];
const DECIMALS: Choices<"decimals"> = [
  ["2", "12.70"],
  ["3", "12.700"],
];
const INCHES: Choices<"inches"> = [
  ["decimal", "0.875"],
  ["fraction", "7/8, to the nearest 64th"],
];
const DATES: Choices<"dates"> = [
  ["iso", "2026-11-30"],
  ["day", "30 Nov 2026"],
  ["month", "Nov 30, 2026"],
];
const WIDTHS: Choices<"sheetWidth"> = [
  ["usual", "usual"],
  ["wide", "wide"],
  ["widest", "widest"],
];

/** What each person settles for this browser; it takes hold at once. */
export function SettingsDialog({ close }: { close: () => void }) {
  const { singleKeys } = useSettings();
  return (
    <Dialog close={close} title="Settings of this browser" size={520}>
      <Choose name="theme" says="How it looks" choices={THEMES} />
      <Choose name="sheetWidth" says="Width of the sheet" choices={WIDTHS} />
      <Choose name="first" says="Which size stands first" choices={FIRST} />
      <Choose name="decimals" says="Millimetres are written" choices={DECIMALS} />
      <Choose name="inches" says="Inches are written" choices={INCHES} />
      <Choose name="dates" says="A date is written" choices={DATES} />
      <Choose name="manyFiles" says="Several files dropped on the list become" choices={MANY} />
      <div className={css.setting}>
        <Switch
          label="Single letters are keys (T looks from the top, / searches, ? shows them all)"
          checked={singleKeys}
          onChange={(event) => changeSettings({ singleKeys: event.target.checked })}
        />
      </div>
      <p className="soft">They are kept in this browser alone; sizes in files never depend on them.</p>
    </Dialog>
  );
}

interface ChooseProps<Name extends keyof Settings> {
  name: Name;
  says: string;
  choices: Choices<Name>;
}

/** One of a few, all of them seen. */
function Choose<Name extends keyof Settings>({ name, says, choices }: ChooseProps<Name>) {
  const settings = useSettings();
  return (
    <Radio.Group
      className={css.setting}
      label={says}
      value={String(settings[name])}
      onChange={(value) => changeSettings({ [name]: value } as Partial<Settings>)}
    >
      <div className={css.choices}>
        {choices.map(([value, label]) => (
          <Radio key={value} value={value} label={label} />
        ))}
      </div>
    </Radio.Group>
  );
}
