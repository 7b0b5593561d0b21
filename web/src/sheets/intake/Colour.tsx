import { ColorPicker, Popover } from "@mantine/core";
import { useRef, useState, type KeyboardEvent } from "react";
import { Press } from "../../blocks/Press";
import css from "./Bodies.module.css";

interface Props {
  label: string;
  value: string;
  /** Called once a colour is settled on: when a drag ends, at Enter, or when the picker is left; not at Esc. */
  commit: (colour: string) => void;
}

/** The colour of a body: a patch that opens a picker. */
export function Colour({ label, value, commit }: Props) {
  const [open, setOpen] = useState(false);
  const [moved, setMoved] = useState(value);
  const byKeys = useRef(false);
  const take = (colour: string) => colour.toLowerCase() !== value.toLowerCase() && commit(colour.toLowerCase());
  const pressed = (event: KeyboardEvent) => {
    byKeys.current = event.key !== "Escape";
    if (event.key !== "Enter") return;
    event.preventDefault();
    take(moved);
    setOpen(false);
  };
  const opened = (on: boolean) => {
    // Arrow keys move through many colours: the one where they end is meant.
    if (!on && byKeys.current) take(moved);
    byKeys.current = false;
    if (on) setMoved(value);
    setOpen(on);
  };
  return (
    <Popover opened={open} onChange={opened} position="bottom-start" shadow="none" trapFocus returnFocus>
      <Popover.Target>
        <Press
          className={css.colour}
          aria-label={label}
          style={{ background: open ? moved : value }}
          onClick={() => opened(!open)}
        />
      </Popover.Target>
      <Popover.Dropdown
        className={css.picker}
        onKeyDownCapture={pressed}
        onPointerDownCapture={() => (byKeys.current = false)}
      >
        <ColorPicker
          format="hex"
          value={moved}
          onChange={setMoved}
          onChangeEnd={(colour) => !byKeys.current && take(colour)}
          saturationLabel={`${label}: shade`}
          hueLabel={`${label}: hue`}
          size="sm"
        />
      </Popover.Dropdown>
    </Popover>
  );
}
