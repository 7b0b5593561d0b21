import {
  Checkbox,
  createTheme,
  Modal,
  Notification,
  Popover,
  Radio,
  SegmentedControl,
  Select,
  Slider,
  Tooltip,
  type MantineColorsTuple,
} from "@mantine/core";
import css from "./controls.module.css";

const shades = (...colours: string[]) => colours as unknown as MantineColorsTuple;

/** Drawing paper, ink and three signal colours; see product words: settled, look, stop. Every control is styled here, once. */
export const theme = createTheme({
  fontFamily: "Barlow, sans-serif",
  fontFamilyMonospace: "'IBM Plex Mono', monospace",
  headings: { fontFamily: "'Barlow Condensed', sans-serif", fontWeight: "600" },
  defaultRadius: 0,
  primaryColor: "ink",
  primaryShade: 8,
  colors: {
    ink: shades(
      "#F6F3EC",
      "#E7E2D6",
      "#C9C2B4",
      "#A39C8D",
      "#7F796C",
      "#6B6659",
      "#4B4A47",
      "#33353A",
      "#22262B",
      "#15181B",
    ),
    verdigris: shades(
      "#EAF4F2",
      "#CFE5E1",
      "#A6CFC8",
      "#7BB7AE",
      "#559F95",
      "#2F7F74",
      "#286F65",
      "#215D55",
      "#1A4A44",
      "#123632",
    ),
    vermilion: shades(
      "#FBEBE7",
      "#F2CEC6",
      "#E6A396",
      "#D97865",
      "#CB553E",
      "#B83A24",
      "#A3321E",
      "#872919",
      "#6B2013",
      "#4C160D",
    ),
  },
  black: "#22262B",
  white: "#FFFFFF",
  components: {
    Select: Select.extend({
      defaultProps: {
        size: "xs",
        allowDeselect: false,
        withCheckIcon: false,
        comboboxProps: { shadow: undefined, offset: 1 },
      },
      classNames: { input: css.input, section: css.section, dropdown: css.dropdown, option: css.option },
    }),
    Checkbox: Checkbox.extend({
      defaultProps: { size: "xs" },
      classNames: { root: css.tick, body: css.body, input: css.box, label: css.label },
    }),
    Radio: Radio.extend({
      defaultProps: { size: "xs" },
      classNames: { root: css.tick, body: css.body, radio: css.radio, icon: css.dot, label: css.label },
    }),
    SegmentedControl: SegmentedControl.extend({
      defaultProps: { size: "xs", fullWidth: true, transitionDuration: 0 },
      classNames: { root: css.segments, control: css.segment, label: css.segmentLabel, indicator: css.indicator },
    }),
    Slider: Slider.extend({
      defaultProps: { size: 2, label: null },
      classNames: { root: css.slider, track: css.track, bar: css.bar, thumb: css.thumb },
    }),
    Tooltip: Tooltip.extend({
      defaultProps: { withArrow: false, openDelay: 300, events: { hover: true, focus: true, touch: true } },
      classNames: { tooltip: css.tip },
    }),
    Modal: Modal.extend({
      defaultProps: {
        centered: true,
        transitionProps: { duration: 0 },
        overlayProps: { backgroundOpacity: 0.45, color: "#22262b" },
        closeButtonProps: { "aria-label": "Close" },
      },
      classNames: { content: css.sheet, header: css.sheetHead, title: css.sheetTitle, close: css.close },
    }),
    Notification: Notification.extend({ classNames: { root: css.note, description: css.noteText } }),
    Popover: Popover.extend({ classNames: { dropdown: css.dropdown } }),
  },
});
