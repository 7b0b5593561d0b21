import { ColorPicker, Popover } from "@mantine/core";
import { useState } from "react";
import { Press } from "../../blocks/Press";
import css from "./Bodies.module.css";

interface Props {
  label: string;
  value: string;
  /** Called once a colour is settled on: when a drag ends, not while it goes on. */
  commit: (colour: string) => void;
}

/** The colour of a body: a patch that opens a picker. */
export function Colour({ label, value, commit }: Props) {
  const [open, setOpen] = useState(false);
  const [moved, setMoved] = useState(value);
  return (
    <Popover
      opened={open}
      onChange={(on) => {
        setMoved(value);
        setOpen(on);
      }}
      position="bottom-start"
      shadow="none"
      trapFocus
      returnFocus
    >
      <Popover.Target>
        <Press
          className={css.colour}
          aria-label={label}
          style={{ background: open ? moved : value }}
          onClick={() => {
            setMoved(value);
            setOpen(!open);
          }}
        />
      </Popover.Target>
      <Popover.Dropdown className={css.picker}>
        <ColorPicker
          format="hex"
          value={moved}
          onChange={setMoved}
          onChangeEnd={(colour) => colour !== value && commit(colour.toLowerCase())}
          saturationLabel={`${label}: shade`}
          hueLabel={`${label}: hue`}
          size="sm"
        />
      </Popover.Dropdown>
    </Popover>
  );
}
